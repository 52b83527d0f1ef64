"""The part's document, its units and expressions, and the commands that change it."""
