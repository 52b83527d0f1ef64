"""Sketches: entities, constraints and dimensions; the solver; freedom, conflicts, profiles and editing.

``model`` is the data, ``rows`` the equations, ``substitution`` what is one and the same, ``system`` puts a sketch
into equations, ``solve`` moves it, ``freedom`` says what can still move, ``diagnosis`` why something
is refused, ``words`` names it all, ``profiles`` finds closed regions, ``edit`` changes a sketch.
"""
