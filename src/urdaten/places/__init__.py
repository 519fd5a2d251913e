"""One package per place of the top bar: tables, wire models, acts, routes, jobs."""
