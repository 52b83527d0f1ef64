"""The kinds of step: each module has a step's model, its sentence and what it does; ``registry`` lists them."""
