"""Classes and pupils: lists, cards, consent; one pupil's classes, leaving, merging, erasing."""

from attentive_owl.web.people import classes, listing, pupils
from attentive_owl.web.people.blueprint import api

__all__ = ["api", "classes", "listing", "pupils"]
