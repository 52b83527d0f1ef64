"""A revision of a part that leaves the house: what must hold for it, the pack of its files, and checking a pack."""
