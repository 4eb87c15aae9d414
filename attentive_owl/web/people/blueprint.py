"""The blueprint that everything about people hangs on."""

from __future__ import annotations

from attentive_owl.web.areas import Area

api = Area("people", __name__, 401, 404)
