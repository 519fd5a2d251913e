"""Compiled kernels of the tagger: arrays in, arrays out, no lock held."""
