"""What each note is: its onset, its end, its pitch, and what the alignment alone can not tell."""
