"""What is kept: models, scoped sessions, queries, audio."""
