"""The rules of the job and all its computation: no Django, no HTTP, no screen.

Rooms, from the ground up (imports run one way, see tests/core/test_directions.py):
``part`` and ``solid`` → ``naming`` and ``sketch`` → ``steps`` → ``rebuild`` → ``inspect`` and ``exchange``.
``sheet`` stands beside ``sketch``: it knows notation, not geometry.
"""

__version__ = "0.1.0"
