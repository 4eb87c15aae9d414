"""What was heard and judged in a take goes over the wire as the core has it: the document's schema is derived from its types."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from pydantic import TypeAdapter

from attentive_owl.core.judging import Overruling, Report, in_words, overruled
from attentive_owl.store.models import Overrule

_REPORT = TypeAdapter(Report)


def report_from(document: Mapping[str, Any], words: Iterable[Overruling] = ()) -> Report:
    """A kept document, whichever version wrote it, as it stands after the teacher's ear."""
    return overruled(_REPORT.validate_python(in_words(document)), words)


def overruling_of(own: Overrule) -> Overruling:
    return Overruling(own.says, own.note_index, own.cause)  # type: ignore[arg-type]
