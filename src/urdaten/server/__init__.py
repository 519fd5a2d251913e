"""Builds the application from the places."""
