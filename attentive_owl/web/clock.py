"""What time it is where the studio is: days begin and end there, wherever the server stands."""

from __future__ import annotations

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from attentive_owl.web.studio import studio_words


def local(moment: datetime) -> datetime:
    """A moment by the studio's clock; by the server's where the studio has set none."""
    zone = studio_words().time_zone
    return moment.astimezone(ZoneInfo(zone) if zone else None)


def today() -> date:
    return local(datetime.now(UTC)).date()


def midnight() -> datetime:
    """When the studio's day began, in UTC."""
    now = local(datetime.now(UTC))
    return now.replace(hour=0, minute=0, second=0, microsecond=0).astimezone(UTC)
