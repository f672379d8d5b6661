"""Writes the public holidays of many countries as calendars, and beside each the days that are in it: FOLDER FROM-YEAR UNTIL-YEAR."""
import datetime
import pathlib
import sys

import holidays as public
import icalendar

folder, first, last = pathlib.Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
for country in public.list_supported_countries():
    days = public.CountryHoliday(country, years=range(first, last))
    calendar = icalendar.Calendar()
    calendar.add("prodid", "-//public holidays of " + country + "//EN")
    calendar.add("version", "2.0")
    for day, name in sorted(days.items()):
        event = icalendar.Event()
        event.add("uid", str(day) + "@" + country)
        event.add("dtstamp", datetime.datetime(2026, 1, 1))
        event.add("dtstart", day)
        event.add("dtend", day + datetime.timedelta(days=1))
        event.add("summary", name)
        event.add("description", "A public holiday of " + country + ", as the library that wrote this file has it: " + name * 3)
        calendar.add_component(event)
    folder.joinpath(country + ".ics").write_bytes(calendar.to_ical())
    folder.joinpath(country + ".days").write_text("".join(str(day) + "\n" for day in sorted(days)))
