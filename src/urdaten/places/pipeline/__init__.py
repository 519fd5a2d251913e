"""The pipeline: lanes of evidence for texts, and the one answer made from them."""
