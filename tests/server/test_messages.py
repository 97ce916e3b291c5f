"""What web process and renderer say to each other is checked where it is made, and goes through their pipe whole."""

from __future__ import annotations

import pickle
from typing import get_args

import pytest
from pydantic import ValidationError

from tests import small
from valleylight.core.project.placement import Made
from valleylight.server.messages import events, wishes
from valleylight.server.messages import questions as q
from valleylight.server.messages.message import Message
from valleylight.server.worker import answers

PROJECT = small.project().description
FACE = q.Face(point=(0, 0, 0), normal=(0, 0, 1), reach_m=0.5)
ASKED = [
    q.Plan(project=PROJECT, height_m=1.2),
    q.Pick(project=PROJECT, view="inside", occasion="noon", picture=(0.5, 0.5), plan=None),
    q.FindHours(project=PROJECT, occasion="noon", year=2026, faces=(FACE,)),
    q.TryLooks(slug="s", view="inside", occasion="noon", looks=PROJECT.looks, width=200),
    q.MarkLimit(slug="s", view="inside", occasion="noon", look=PROJECT.looks[0], number=1, width=200),
    q.Finish(film="0" * 64, look=PROJECT.looks[0], levels={"sun": 2.0}),
    q.CutOutPicture(made=Made(family="person"), picture=None, side=3, rows=160),
    q.CutOutsStanding(project=PROJECT, view="inside", occasion="noon"),
    q.Glimpse(project=PROJECT, view="inside", occasion="noon", when="2026-06-21T10:00", cloudless=True),
]


def test_every_question_has_its_answer():
    """The live picture itself answers what is asked of it."""
    live = {q.Meter, q.KeepLive, q.TryLooks, q.MarkLimit, q.LiveScopes}
    assert set(get_args(q.AnyQuestion)) - live == set(answers.ANSWERS)
    every = {c for c in vars(q).values() if isinstance(c, type) and issubclass(c, q.Question)} - {
        q.Question,
        q.OfProject,
    }
    assert set(get_args(q.AnyQuestion)) == every


def test_what_a_page_asks_by_itself_is_patient():
    assert {c.__name__ for c in get_args(q.AnyQuestion) if c.patient} == {
        "SurfaceSample", "MaterialSample", "SkyOfCatalogue", "Portrait", "StageFigures", "Surfaces", "Horizon", "SkyMeter",
        "Readings", "ThingPicture", "OwnPicture", "Things", "TryLooks", "MarkLimit", "LensSection", "LensStanding", "LiveScopes", "Recipes",
        "YearOfLeaves", "CutOutPicture", "CutOutsStanding", "OnTheWay",
    }  # fmt: skip


@pytest.mark.parametrize("question", ASKED, ids=lambda a: type(a).__name__)
def test_a_question_goes_through_the_pipe_whole(question):
    sent = wishes.Ask(number=7, question=question)
    got = pickle.loads(pickle.dumps(sent))
    assert got == sent
    assert type(got.question) is type(question)


@pytest.mark.parametrize(
    "make",
    [
        lambda: q.Plan(project=PROJECT, height_m=float("nan")),
        lambda: q.Plan(project=PROJECT, height_m=1.0, colour="red"),
        lambda: q.Plan(project={"name": ""}, height_m=1.0),
        lambda: q.Section(project=PROJECT, axis="z", place_m=0),
        lambda: q.Portrait(profile="a", kelvin=None, side="ceiling", ev100=None),
        lambda: q.Area(project=PROJECT, occasion="noon", corner=(0, 0), u=(1, 0, 0), v=(0, 1, 0), normal=(0, 0, 1), spacing_m=1, direct_only=False),
        lambda: wishes.Ask(number=1, question=FACE),
        lambda: wishes.StopJob(job="all"),
        lambda: wishes.ShowLive(slug="s", serial=1, project=PROJECT, view="v", occasion="o", mode="loud"),
        lambda: events.JobChanged(job=1, status="waiting"),
    ],
)  # fmt: skip
def test_what_cannot_be_meant_is_refused_where_it_is_made(make):
    with pytest.raises(ValidationError):
        make()


def test_messages_are_not_changed_on_their_way():
    for module in (wishes, events, q):
        for kind in vars(module).values():
            if isinstance(kind, type) and issubclass(kind, Message):
                assert kind.model_config["frozen"], kind
    with pytest.raises(ValidationError):
        ASKED[0].height_m = 2.0
