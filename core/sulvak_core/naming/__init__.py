"""Where faces and edges come from, and references that survive edits."""
