"""In and out: the part's own file, STEP, STL; and building a part file without a browser."""
