"""Settings, database, sign-in, jobs, events, problem details: what every place stands on."""
