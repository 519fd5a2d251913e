"""The demo project: the port of Tessmar, invented throughout."""
