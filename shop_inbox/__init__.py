"""A stand-in for a shop that takes release packs. It is simulated, and says so."""
