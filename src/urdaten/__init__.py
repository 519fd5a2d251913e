"""Urdaten: from running text to records that can be trusted."""
