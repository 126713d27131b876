"""Questions that need no database: what the API and the commands answer, and the Lab."""
