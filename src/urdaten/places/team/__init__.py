"""Projects and the people in them."""
