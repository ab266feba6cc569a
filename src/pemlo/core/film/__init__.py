"""A film: a project with everything that follows from it, each value made once from just what it is made from."""
