"""What whoever runs it asks."""

from __future__ import annotations

from attentive_owl.web.schemas.common import Out


class Readiness(Out):
    database: bool
    newest_form: bool
    """Every migration was run."""
    store: bool
    """Of recordings."""
    worker: bool
    """One at least gave a sign within half a minute."""
