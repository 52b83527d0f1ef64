"""Checking the finished solid: mass, and every callout proven by measuring."""
