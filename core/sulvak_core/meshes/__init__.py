"""Meshes from outside: read, held against a part, laid on it."""
