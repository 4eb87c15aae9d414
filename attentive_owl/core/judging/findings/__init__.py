"""Causes and the words for them: one entry a kind, in the module of its layer."""

from __future__ import annotations

from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings import bow, hand, line, place, played, time, tuning
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.findings.hand_fit import fit_hand

FINDINGS: dict[str, Finding] = {
    finding.kind: finding for module in (line, played, tuning, place, hand, bow, time) for finding in module.FINDINGS
}


def find_causes(evidence: Evidence) -> tuple[Cause, ...]:
    """Causes, layer by layer. A line that stands elsewhere as a whole is the only thing that is said."""
    found: list[Cause] = []
    for layer in Layer:
        own = [finding for finding in FINDINGS.values() if finding.layer is layer]
        for finding in own:
            if finding.detect is not None:
                found += finding.detect(evidence)
        if layer is Layer.HAND:
            elsewhere = {n for cause in found if FINDINGS[cause.kind].layer is Layer.PLACE for n in cause.notes}
            found += fit_hand(evidence, own, elsewhere)
        if layer is Layer.LINE and found:
            break
    return tuple(found)


def ranked(causes: tuple[Cause, ...]) -> list[list[int]]:
    """Places of the causes, those of one kind together, the kind that is spoken of first in front."""
    by_kind: dict[str, list[int]] = {}
    for at, cause in enumerate(causes):
        by_kind.setdefault(cause.kind, []).append(at)
    return [by_kind[kind] for kind in sorted(by_kind, key=lambda kind: FINDINGS[kind].rank)]


__all__ = ["FINDINGS", "Evidence", "Finding", "Layer", "find_causes", "ranked"]
