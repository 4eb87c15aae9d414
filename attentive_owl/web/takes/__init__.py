"""Takes: handed in by pupils, followed while they are checked, heard and marked by teachers. A module for each."""

from attentive_owl.web.takes import goes, handing_in, lists, marking, on_paper, one_take, pictures, rechecking
from attentive_owl.web.takes.blueprint import api

__all__ = ["api", "goes", "handing_in", "lists", "marking", "on_paper", "one_take", "pictures", "rechecking"]
