"""How much sound may come in at once."""

MAX_BYTES = 100 * 1024 * 1024
MAX_SECONDS = 600.0
