"""What a part weighs and why: what drives its mass, how a target is met, what tolerances allow, a bench scale."""
