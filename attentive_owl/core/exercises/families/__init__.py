"""Families of exercises. A new one is one new entry in one of the modules here."""

from attentive_owl.core.exercises.families import intonation, phrases, rhythm, scales
from attentive_owl.core.exercises.families.phrases import AS_TYPED
from attentive_owl.core.exercises.families.shape import Family, Step
from attentive_owl.core.exercises.patterns import RecipeError

FAMILIES: dict[str, Family] = {
    family.key: family for family in (*scales.FAMILIES, *rhythm.FAMILIES, *intonation.FAMILIES, *phrases.FAMILIES)
}


def family(key: str) -> Family:
    """Look a family up. Raises RecipeError with one clear sentence for an unknown name."""
    try:
        return FAMILIES[key]
    except KeyError:
        raise RecipeError(f"{key!r} is none of the exercises {', '.join(FAMILIES)}") from None


__all__ = ["AS_TYPED", "FAMILIES", "Family", "Step", "family"]
