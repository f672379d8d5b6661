"""Prints the days that the events of a calendar cover, each by its own clock: FILE FROM UNTIL."""
import datetime
import sys

import icalendar
import recurring_ical_events

path, first, last = sys.argv[1], *(datetime.date.fromisoformat(text) for text in sys.argv[2:4])
calendar = icalendar.Calendar.from_ical(open(path, "rb").read())


def local(value):
    if isinstance(value, datetime.datetime):
        return value.replace(tzinfo=None)
    return datetime.datetime(value.year, value.month, value.day)


days = set()
for event in recurring_ical_events.of(calendar).between(first, last):
    begin = local(event["DTSTART"].dt)
    end = local(event["DTEND"].dt) if "DTEND" in event else begin
    day = begin.date()
    while True:
        days.add(day)
        day += datetime.timedelta(days=1)
        if local(day) >= end:
            break
for day in sorted(days):
    if first <= day < last:
        print(day)
