"""Heat on the back stage: the form with its overcorrection, and what stayed teaches the next."""

import pytest
from django.urls import reverse

from bowyery.units.quantity import INCH
from fellwind.builds.models import Build, Entry, HeatJob, Wait

STAGE = reverse("builds:stage", args=[1, "back"])
HEAT = reverse("builds:heat", args=[1])
REFLEX = {"bend": "reflex", "limb": "both", "amount": "3/4", "way": "dry heat",
          "page_world": "imperial"}  # fmt: skip


def test_the_form_is_set_over_and_the_limb_rests_on_it(client, shop):
    client.post(HEAT, REFLEX)
    job = HeatJob.objects.get()
    assert job.form > 1.2 * job.wanted
    waits = list(Build.objects.get(number=1).waits.all())
    assert [w.what for w in waits] == [
        "Dry heat cools on the form", "Wood takes its moisture back"]  # fmt: skip
    assert waits[1].after == waits[0]
    page = client.get(STAGE).content.decode()
    assert "Bend the form by" in page and "may stay" in page
    assert "Off the limb&#x27;s own line" in page or "Off the limb's own line" in page


def test_what_stayed_is_an_act_of_the_log_and_sets_the_next_form(client, shop):
    # Given a reflex of which little more than half stayed
    client.post(HEAT, REFLEX)
    job = HeatJob.objects.get()
    stayed = {"stayed": f"{0.55 * job.form / INCH:.2f}", "page_world": "imperial"}
    url = reverse("builds:stayed", args=[1, job.pk])
    answer = client.post(url, stayed, follow=True).content.decode()
    # Then the log has the act, the page says what to look at, and the next form goes further over
    assert "55 % of it stayed" in answer and "Look at the tiller again" in answer
    assert Entry.objects.filter(text__startswith="reflex both").count() == 1
    client.post(HEAT, REFLEX)
    later = HeatJob.objects.exclude(pk=job.pk).get()
    assert later.form > 1.08 * job.form
    # and once written down it stays written down
    again = client.post(url, stayed, follow=True).content.decode()
    assert "written down already" in again
    assert Entry.objects.filter(text__startswith="reflex both").count() == 1


def test_a_twist_is_told_in_degrees_and_one_limb_at_a_time(client, shop):
    twist = {"bend": "twist", "limb": "upper", "twist": "4", "way": "steam",
             "start": "10", "end": "20", "page_world": "imperial"}  # fmt: skip
    client.post(HEAT, twist)
    job = HeatJob.objects.get()
    assert "°" in client.get(STAGE).content.decode()
    assert Wait.objects.filter(what__startswith="Steamed limb").exists()
    client.post(reverse("builds:stayed", args=[1, job.pk]),
                {"stayed_twist": "3", "page_world": "imperial"})  # fmt: skip
    assert Entry.objects.filter(text__startswith="twist out upper 3").exists()


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"amount": ""}, "amount"),
        ({"amount": "-1"}, "amount"),
        ({"amount": "4 ft"}, "amount"),
        ({"bend": "twist", "twist": "", "limb": "upper"}, "twist"),
        ({"bend": "side"}, "limb"),
        ({"start": "20", "end": "10"}, "end"),
        ({"end": "45"}, "end"),
        ({"way": "microwave"}, "way"),
    ],
)
def test_a_bend_that_cannot_be_is_said_beside_its_field(client, shop, given, field):
    answer = client.post(HEAT, REFLEX | given)
    assert answer.status_code == 422 and answer.context["forms"].heat.errors[field]
    assert not HeatJob.objects.exists() and not Wait.objects.exists()


def test_more_than_was_bent_cannot_have_stayed(client, shop):
    client.post(HEAT, REFLEX)
    job = HeatJob.objects.get()
    url = reverse("builds:stayed", args=[1, job.pk])
    for text in ("4", "", "-1/2", "much"):
        answer = client.post(url, {"stayed": text, "page_world": "imperial"})
        assert answer.status_code == 422
    job.refresh_from_db()
    assert job.stayed is None


def test_nothing_that_stayed_is_no_act(client, shop):
    client.post(HEAT, REFLEX)
    job = HeatJob.objects.get()
    client.post(reverse("builds:stayed", args=[1, job.pk]),
                {"stayed": "0", "page_world": "imperial"})  # fmt: skip
    job.refresh_from_db()
    assert job.stayed == 0 and not Entry.objects.filter(text__startswith="reflex").exists()
