"""What time it is where the studio is: days begin and end there, wherever the server stands."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

from attentive_owl.web.studio import studio_settings


@dataclass(frozen=True)
class StudioClock:
    zone: ZoneInfo | None
    """None: the server's own."""

    def local(self, moment: datetime) -> datetime:
        return moment.astimezone(self.zone)

    def today(self) -> date:
        return self.local(datetime.now(UTC)).date()

    def midnight(self) -> datetime:
        """When the studio's day began, in UTC."""
        now = self.local(datetime.now(UTC))
        return now.replace(hour=0, minute=0, second=0, microsecond=0).astimezone(UTC)


def studio_clock() -> StudioClock:
    zone = studio_settings().time_zone
    return StudioClock(ZoneInfo(zone) if zone else None)
