"""A drawing made from a part: its views in projection, its sizes where they show best, a frame and a title block."""
