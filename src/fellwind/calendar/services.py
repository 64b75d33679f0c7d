"""What rests, as an iCalendar file (RFC 5545)."""

from datetime import date, datetime, timedelta

from django.urls import reverse
from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from fellwind.builds.models import Wait
from fellwind.builds.waits import hours_of
from fellwind.rack.services import seasoning, staves
from fellwind.shop.models import Workshop

SHORT = timedelta(minutes=15)  # an end of a rest stands so long in a calendar
MOST = 200
REFRESH = timedelta(hours=1)


def calendar(now: datetime) -> bytes:
    """Ends of all that rests on open builds, and days when staves should be dry enough."""
    workshop = Workshop.get()
    found = Calendar()
    found.add("prodid", "-//Fellwind//rests//EN")
    found.add("version", "2.0")
    name = " ".join(workshop.name.split())  # of one line, whatever came from elsewhere
    found.add("name", name)
    found.add("x-wr-calname", name)
    found.add("refresh-interval", REFRESH, {"value": "DURATION"})
    waits = Wait.objects.filter(ended=None, build__finished=None).select_related("build")
    for wait in waits.order_by("until")[:MOST]:
        found.add_component(_of_wait(wait, now))
    for stave in staves().filter(builds=None)[:MOST]:
        forecast = seasoning(stave, workshop)
        if forecast.ready is not None:
            said = f"Stave {stave.number}, {stave.material} {stave.kind}: dry enough"
            found.add_component(_of_day(f"stave-{stave.pk}", said, forecast.ready, now))
    return bytes(found.to_ical())


def _of_wait(wait: Wait, now: datetime) -> Event:
    said = f"Number {wait.build.number}, {wait.build.name}: {wait.what}"
    event = Event()
    event.add("uid", f"wait-{wait.pk}@fellwind")
    event.add("dtstamp", now)
    event.add("dtstart", wait.until)
    event.add("dtend", wait.until + SHORT)
    event.add("summary", said)
    hours = hours_of(wait)
    if hours.high > hours.usual:
        late = timezone.localtime(wait.since + timedelta(hours=hours.high))
        event.add("description", f"It may take until {late:%a %-d %b, %H:%M}.")
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", said)
    alarm.add("trigger", timedelta(0))
    event.add_component(alarm)
    return event


def _of_day(uid: str, said: str, day: date, now: datetime) -> Event:
    event = Event()
    event.add("uid", f"{uid}@fellwind")
    event.add("dtstamp", now)
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("summary", said)
    return event


def pages() -> list[str]:
    """Screens of this room."""
    return [reverse("calendar:links")]
