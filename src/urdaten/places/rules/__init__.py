"""Rules: named patterns with examples of their own."""
