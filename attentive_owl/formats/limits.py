"""How much sound may come in at once."""

MAX_MEGABYTES = 100
MAX_BYTES = MAX_MEGABYTES * 1024 * 1024
MAX_SECONDS = 600.0
