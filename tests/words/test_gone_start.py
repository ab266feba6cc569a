"""Hours that are gone and still counted. Three cases by hand: two machines got 56 minutes that were gone."""

from datetime import datetime, timedelta

import pytest

from film import DUE, START, make_project, make_shot
from pemlo.core.project.watching import Watching
from pemlo.words.verdicts import gone_start_words

AT = datetime.fromisoformat(START)
DAY = timedelta(days=1)


@pytest.mark.parametrize(
    ("gone", "said"),
    [
        (timedelta(minutes=56), ""),  # of 80 hours: a hundredth
        (timedelta(hours=18, minutes=20), "was 18 h 20 m ago"),
        (-DAY, ""),
        (timedelta(hours=79), "was 3 d 7 h ago"),
        (timedelta(hours=81), ""),  # it was due before: there is no forecast to save
    ],
)
def test_what_is_gone_is_said_where_it_counts(gone, said):
    words = gone_start_words(make_project(), AT + gone)
    assert said in words
    assert bool(words) == bool(said)


def test_of_a_film_that_is_due_tonight_an_hour_counts():
    due = AT + timedelta(hours=8)
    words = gone_start_words(make_project(deadline=due), AT + timedelta(minutes=56))
    assert words.startswith("The start, Mon 10:00, was 56 m 00 s ago")
    assert not gone_start_words(make_project(deadline=due), AT + timedelta(minutes=20))


def test_where_frames_are_watched_the_rest_is_counted_from_now():
    assert DUE > START
    watched = make_project().replace(watching=Watching(place="r/{shot}.{frame:04}.exr"))
    by_shot = make_project((make_shot().replace(place="r/{shot}.{frame:04}.exr"),))
    assert [gone_start_words(one, AT + DAY) for one in (watched, by_shot, make_project(()))] == ["", "", ""]
