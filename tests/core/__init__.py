"""The core on its own: no database, no screen."""
