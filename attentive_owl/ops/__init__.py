"""Running it all on one machine: the database cluster, the supervisor behind ./start."""
