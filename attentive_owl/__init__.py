"""Attentive Owl: warm-ups for beginner strings, set, practised, recorded, checked and marked."""
