"""Texts: bodies, their sentences, groups and splits."""
