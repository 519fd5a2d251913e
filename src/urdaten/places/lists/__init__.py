"""Lists: names with variants, each list with the type its names have."""
