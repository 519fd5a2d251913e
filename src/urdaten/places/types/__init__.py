"""Types: the scheme of a project."""
