"""The pages and the API: HTTP, templates. No rule, no formula, no SQL."""
