"""Whether a part can be made: out of a mould, with cutters, with walls that hold; and whether its solid is sound."""
