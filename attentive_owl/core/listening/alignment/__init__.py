"""Which written note each stretch of sound is."""
