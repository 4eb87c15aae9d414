"""Whether it is this exercise at all, in this rhythm and place; and if not, why."""
