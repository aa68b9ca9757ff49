"""Calendars as iCalendar files (RFC 5545): when the next clip is due, and everything that a coach or a student has before them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import icalendar


def due_calendar(key: str, on: date, summary: str, words: str, stamp: datetime) -> bytes:
    """A day-long entry on the day, reminded of a day before. `key` keeps a changed one the same entry."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//Lacertus//Review sheet//EN")
    calendar.add("version", "2.0")
    event = icalendar.Event()
    event.add("uid", f"{key}@lacertus")
    event.add("dtstamp", stamp)
    event.add("dtstart", on)
    event.add("dtend", on + timedelta(days=1))
    event.add("summary", summary)
    event.add("description", words)
    event.add("transp", "TRANSPARENT")
    alarm = icalendar.Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("trigger", timedelta(days=-1))
    alarm.add("description", summary)
    event.add_component(alarm)
    calendar.add_component(event)
    return bytes(calendar.to_ical())


@dataclass(frozen=True, kw_only=True)
class Entry:
    """Something in a calendar: on a day, or from a minute of that day for so many minutes. `key` keeps a changed one the same."""

    key: str
    on: date
    summary: str
    words: str = ""
    at: int | None = None
    minutes: int | None = None


def feed_calendar(name: str, time_zone: str, entries: Iterable[Entry], stamp: datetime) -> bytes:
    """A calendar that programs read again by themselves. Times are written in UTC, so that no time zone has to be described."""
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//Lacertus//Calendar//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    calendar.add("refresh-interval", timedelta(hours=6), parameters={"value": "DURATION"})
    zone = ZoneInfo(time_zone)
    for one in entries:
        event = icalendar.Event()
        event.add("uid", f"{one.key}@lacertus")
        event.add("dtstamp", stamp)
        if one.at is None:
            event.add("dtstart", one.on)
            event.add("dtend", one.on + timedelta(days=1))
            event.add("transp", "TRANSPARENT")
        else:
            start = datetime.combine(one.on, time(one.at // 60, one.at % 60), zone)
            event.add("dtstart", start.astimezone(UTC))
            event.add("dtend", start.astimezone(UTC) + timedelta(minutes=one.minutes or 0))
        event.add("summary", one.summary)
        if one.words:
            event.add("description", one.words)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
