"""Speed as ratios: both sides measured in the same run, medians. ``./sulvak bench`` writes docs/benchmarks.md."""
