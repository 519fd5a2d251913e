"""Tagger: trainings, their progress and the model in use."""
