"""Follow-ups as an iCalendar file (RFC 5545): a day each, with a reminder the day before."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime, timedelta
from typing import NamedTuple

from icalendar import Alarm, Calendar, Event


class Appointment(NamedTuple):
    """A day on which somebody returns; `uid` stays the same however often it is given out."""

    uid: str
    on: date
    title: str
    where: str
    says: str


def calendar_of(appointments: Iterable[Appointment], now: datetime) -> bytes:
    """An iCalendar file of these days, made at a moment (UTC)."""
    calendar = Calendar()
    calendar.add("prodid", "-//Keen Coil//follow-ups//EN")
    calendar.add("version", "2.0")
    for one in appointments:
        event = Event()
        event.add("uid", one.uid)
        event.add("dtstamp", now)
        event.add("dtstart", one.on)
        if one.on < date.max:  # a day alone ends with itself (RFC 5545, 3.6.1)
            event.add("dtend", one.on + timedelta(days=1))
        event.add("summary", one.title)
        event.add("location", one.where)
        event.add("description", one.says)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", one.title)
        alarm.add("trigger", timedelta(days=-1))
        event.add_component(alarm)
        calendar.add_component(event)
    made: bytes = calendar.to_ical()
    return made
