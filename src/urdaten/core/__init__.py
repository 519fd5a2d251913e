"""Pure computing: no database, no HTTP, no clock."""
