"""The addresses of takes."""

from __future__ import annotations

from attentive_owl.web.areas import Area

api = Area("takes", __name__, 401, 404)
