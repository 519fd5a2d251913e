"""Records: templates, assembled records, and their export."""
