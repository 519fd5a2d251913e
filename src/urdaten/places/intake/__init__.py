"""Imports: sources looked into before anything is kept, by a plan, and then kept as texts."""
