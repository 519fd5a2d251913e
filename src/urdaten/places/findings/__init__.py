"""What is in the texts: values, how they spread and stand together, and where they are; only read, never written."""
