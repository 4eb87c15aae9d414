"""Work that is done outside a request: checking takes. The queue is the same PostgreSQL."""
