"""When the next clip is due, as an iCalendar file."""

from __future__ import annotations

from datetime import date, datetime, timedelta

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
