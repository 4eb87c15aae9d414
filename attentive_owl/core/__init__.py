"""The job's rules and computation. Pure: no web, no database, no files; numpy, scipy, soxr and the standard library only."""
