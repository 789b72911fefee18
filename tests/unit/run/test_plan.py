"""The plan: sizes_of_family, heats and processes, without starting a process."""

from __future__ import annotations

from itertools import islice, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import Study
from logarithm.protocol.clock import round_calls
from logarithm.run.plan import schedule as plan
from logarithm.run.plan.settings import Settings
from logarithm.run.plan.track import Step, Track, kept_sizes
from logarithm.run.plan.track import tracks as tracks_of


def harbour(sizes: str | None = "8..64 *2") -> Study:
    study = Study("harbour", sizes=sizes)
    for name in ("calm", "storm"):
        study.family(lambda n, rng: [n], name=name)
    study.contender(lambda x: x, name="rowing")
    study.contender(lambda x: x, name="sailing", families=["calm"], sizes="8, 16", ceiling="2s")
    return study


def test_few_sizes_are_made_up_for_between_and_below_them() -> None:
    (steep,) = tracks_of(harbour_of_one(None), Settings())
    assert list(steep.nearby()) == []
    for size in (8, 11, 16):
        steep.steps[size] = {None: Step(1, 0.01, copies=False)}
    assert list(islice(steep.nearby(), 5)) == [13, 14, 9, 15, 12] or set(islice(steep.nearby(), 6)) <= set(range(9, 16))
    assert list(steep.nearby())[-7:] == [7, 6, 5, 4, 3, 2, 1]
    assert len(set(steep.nearby())) == len(list(steep.nearby())) == 13
    (planned,) = tracks_of(harbour_of_one("8..64 *2"), Settings())
    planned.steps[8] = {None: Step(1, 0.01, copies=False)}
    assert list(planned.nearby()) == []  # sizes that were asked for are a bound


def harbour_of_one(sizes: str | None) -> Study:
    study = Study("harbour", sizes=sizes)
    study.family(lambda n, rng: [n], name="calm")
    study.contender(lambda x: x, name="rowing")
    return study


def climbed(costs: dict[str, list[float]], sizes: str = "8..64 *2") -> list[Track]:
    """Tracks on the family calm whose sizes cost as given."""
    tracks = []
    for name, each in costs.items():
        study = Study("harbour", sizes=sizes)
        study.family(lambda n, rng: [n], name="calm")
        study.contender(lambda x: x, name=name)
        (track,) = tracks_of(study, Settings())
        for cost in each:
            assert track.next is not None
            track.steps[track.next] = {None: Step(round_calls(Settings().trial / cost), cost, copies=False)}
            track.advance()
        tracks.append(track)
    return tracks


def test_there_is_a_track_for_each_contender_on_each_of_its_families() -> None:
    tracks = tracks_of(harbour(), Settings(ceiling=1.0))
    found = [
        (track.contender.name, track.family.name, track.next, len(track.coming), track.ceiling) for track in tracks
    ]
    assert found == [("rowing", "calm", 8, 4, 1.0), ("sailing", "calm", 8, 2, 2.0), ("rowing", "storm", 8, 4, 1.0)]
    only = tracks_of(harbour(), Settings(contenders=("rowing",), families=("storm",), sizes=(5, 10)))
    assert [(track.contender.name, track.family.name, track.planned) for track in only] == [
        ("rowing", "storm", (5, 10))
    ]


def test_a_study_without_sizes_has_a_ladder_without_end() -> None:
    track = tracks_of(harbour(None), Settings())[0]
    assert track.coming == ()
    assert [track.next, *islice(track.sizes, 4)] == [8, 11, 16, 23, 32]


@given(st.floats(0, 4), st.floats(1e-7, 1e-3))
def test_the_next_size_is_forecast_as_a_power(power: float, scale: float) -> None:
    (track,) = climbed({"rowing": [scale * n**power for n in (8, 16, 32)]})
    assert track.forecast() == pytest.approx(scale * 64**power, rel=1e-6)


def test_nothing_is_forecast_before_anything_is_known() -> None:
    track = tracks_of(harbour(), Settings())[0]
    assert track.forecast() == 0
    track.steps[8] = {None: Step(1, 0.5, copies=False)}
    track.advance()
    assert track.forecast() == 0.5


def test_a_size_that_fails_takes_the_larger_ones_with_it() -> None:
    (track,) = climbed({"rowing": [1e-6, 2e-6, 4e-6, 8e-6]})
    track.drop(32)
    assert list(track.steps) == [8, 16]


@given(st.floats(0.5, 500), st.lists(st.floats(1e-6, 0.5), min_size=1, max_size=4))
def test_as_many_heats_as_fit_and_dear_sizes_pause(left: float, costs: list[float]) -> None:
    tracks = climbed({"rowing": sorted(costs)})
    heats, pauses = plan.pauses_of(tracks, Settings().trial, left)
    assert 1 <= heats <= plan.HEATS_MOST
    trials = {key: sum(step.trial for step in tracks[0].steps[key[2]].values()) for key in pauses}
    needed = sum(-(-heats // pause) * trials[key] for key, pause in pauses.items())
    assert heats == 1 or needed <= left
    assert all(heats // pause >= min(heats, plan.HEATS_LEAST) for pause in pauses.values())
    ranked = [pauses[key] for key in sorted(pauses, key=lambda key: trials[key])]
    assert ranked == sorted(ranked)


@given(st.floats(0.01, 100), st.floats(0.001, 10))
def test_a_process_has_more_heats_the_dearer_it_is_to_start(heat: float, start: float) -> None:
    heats = plan.heats_of_process(heat, start)
    assert 1 <= heats <= plan.HEATS_OF_PROCESS
    assert heats <= plan.heats_of_process(heat, 2 * start)
    assert plan.heats_of_process(start * 10, start) == 1


def test_trials_are_short_where_there_are_many_points_and_long_where_a_whole_budget_has_room() -> None:
    tracks = climbed({"rowing": [1e-6] * 4})
    settings, whole = Settings(), Settings(whole=True)
    assert plan.trial_length(tracks, settings, 2.0) == settings.trial
    assert plan.trial_length(tracks, settings, 1e6) == settings.trial
    assert settings.trial < plan.trial_length(tracks, whole, 10.0) <= plan.TRIAL_S_MOST
    assert plan.TRIAL_S_LEAST <= plan.trial_length(tracks, settings, 0.4) < settings.trial
    # Fewer points leave more time to each.
    few = {("rowing", "calm", 8)}
    assert plan.trial_length(tracks, settings, 0.4, few) > plan.trial_length(tracks, settings, 0.4)


@given(st.integers(1, 40), st.floats(0.1, 60))
def test_sizes_in_between_are_left_out_and_never_the_largest(many: int, room: float) -> None:
    coming = tuple(range(1, many + 1))
    kept = kept_sizes(coming, [1.0] * many, room)
    assert kept[-1] == many and set(kept) <= set(coming)
    assert len(kept) <= max(room, 1) and (len(kept) == many) == (room >= many or many == 1)
    assert len({later - earlier for earlier, later in pairwise(kept)}) <= 1


def test_a_track_takes_the_sizes_that_were_chosen() -> None:
    (track,) = climbed({"rowing": [1e-6] * 2}, sizes="8..256 *2")
    assert track.coming == (32, 64, 128, 256)
    track.take({64, 256})
    assert (track.next, track.coming, track.planned) == (64, (64, 256), (8, 16, 64, 256))


def test_a_size_beyond_the_ladder_is_as_large_as_a_call_may_be_dear() -> None:
    (track,) = climbed({"rowing": [1e-6 * n**2 for n in (8, 16, 32, 64)]})
    reach = track.reach(1e-6 * 200**2)
    assert 150 < reach <= 200
    assert track.at(128) == pytest.approx(1e-6 * 128**2)


def test_a_trial_that_turns_out_short_makes_more_calls_next_time() -> None:
    step = Step(calls=10, call=1e-3, copies=False)
    for _ in range(20):
        step.seen(1e-6, 0.005, 0.001, is_first=False)
    assert step.calls * step.call == pytest.approx(0.005, rel=0.3)


@given(st.floats(0.01, 1e6))
def test_calls_are_single_or_in_tens(calls: float) -> None:
    rounded = round_calls(calls)
    assert rounded >= calls
    assert rounded < 10 or rounded % 10 == 0
    assert rounded < calls + 10
