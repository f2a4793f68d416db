"""Each value of the desk is read on its own: one that is odd is set aside, and the others are as they were."""

import json

import pytest

from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup, Valve
from ondine.core.table.ledger import Ledger
from ondine.core.timing.wire import sequence_to_json
from ondine.studio.composer import LEARNED_ANEW, plan_kept
from ondine.studio.events import Trouble
from ondine.studio.kept import ASIDE, KeptState
from tests.calibrated import IN_HAND
from tests.conftest import PAIR

GOOD = {
    "sequence": sequence_to_json(IN_HAND.sequence),
    "setup": IN_HAND.setup.to_json(),
    "belief": IN_HAND.belief.to_json(),
}
START = Plan(PAIR, Setup())
MANY_DURATIONS = [{"power": n / 66, "duration_s": n * 1e-5} for n in range(2, 67)]
ODD = ["", "{", "[]", "null", "3", '"x"', "NaN", "1e999", "[" * 5000]


@pytest.mark.parametrize("key", sorted(GOOD))
@pytest.mark.parametrize("text", ODD)
def test_an_odd_value_harms_no_other(key, text):
    kept = KeptState(GOOD | {key: text})
    plan = plan_kept(kept, START)
    assert kept.set_aside == {key: text}
    for name in ("sequence", "setup", "belief"):
        assert getattr(plan, name) == getattr(START if name == key else IN_HAND, name)
    assert "The old text is kept" in kept.words


def test_a_field_of_a_newer_ondine_is_passed_over():
    newer = {key: json.dumps(json.loads(text) | {"of_a_newer_one": {"x": 1}}) for key, text in GOOD.items()}
    kept = KeptState(newer)
    assert plan_kept(kept, START) == IN_HAND and kept.words == ""
    assert Ledger.from_json('{"bowl_drops": 3, "of_a_newer_one": 1}') == Ledger(3)


@pytest.mark.parametrize(
    ("key", "change"),
    [
        ("setup", lambda d: d["valves"][0].update(nozzle_height_m=9.0)),
        ("setup", lambda d: d["light"].update(units=[])),
        ("setup", lambda d: d["mix"].update(tint="red")),
        ("setup", lambda d: d["mix"].update(glycerine_mass_fraction=0.9, milk_mass_fraction=0.9)),
        ("setup", lambda d: d.update(other="[")),
        ("belief", lambda d: d["lag_s"].update(mean=-1.0)),
        ("belief", lambda d: d["jet_delay_factor"].update(mean=1e-300, sd=1.0)),
        ("setup", lambda d: d["valves"][0].update(nozzle_height_m="0.4")),
        ("belief", lambda d: d.update(lag_s=3)),
        ("sequence", lambda d: d.update(drops=3)),
        ("sequence", lambda d: d.update(flashes=-1)),
        ("sequence", lambda d: d.update(drops=[])),
        ("sequence", lambda d: d["drops"][0].update(open_us=1.5)),
        # What no recipe could be read with again.
        ("sequence", lambda d: d["drops"][0].update(valve=65)),
        ("sequence", lambda d: d["flashes"][0].update(output=10**18)),
        ("setup", lambda d: d.update(valves=d["valves"] * 65)),
        ("setup", lambda d: d["light"].update(units=d["light"]["units"] * 65)),
        ("setup", lambda d: d["light"]["units"][0].update(durations=MANY_DURATIONS)),
    ],
)
def test_what_no_table_can_be_is_set_aside(key, change):
    data = json.loads(GOOD[key])
    change(data)
    kept = KeptState(GOOD | {key: json.dumps(data)})
    plan_kept(kept, START)
    assert set(kept.set_aside) == {key}


def test_the_old_text_is_kept_and_it_is_said(table):
    table.studio.composer.use_setup(Setup(valves=(Valve(nozzle_height_m=0.4),)))
    table.studio.close()
    table.studio = table.open()
    table.settle()
    table.studio.log.keep("setup", "{torn")
    table.studio.log.keep("ledger", "[]")
    table.studio.close()
    table.events.clear()
    table.studio = table.open()
    table.studio.say_what_was_set_aside()
    table.settle()
    assert table.studio.composer.setup == Setup() and table.studio.bench.ledger == Ledger()
    said = table.heard(Trouble)[0].message
    assert "the table in hand" in said and "what has run through the valve" in said
    table.studio.composer.use_setup(Setup(valves=(Valve(nozzle_height_m=0.5),)))
    table.studio.close()
    table.studio = table.open()
    table.settle()
    assert table.studio.writer.logbook.state.get(f"{ASIDE}setup") == "{torn"


def test_shots_that_cannot_be_read_are_counted_at_the_start(table):
    for _ in range(3):
        table.fire()
        table.settle()
    table.studio.close()
    import sqlite3

    with sqlite3.connect(table.path) as raw:
        raw.execute("UPDATE shot SET sequence = 'torn' WHERE id = 2")
    raw.close()
    table.studio = table.open()
    table.events.clear()
    table.studio.say_what_was_set_aside()
    assert [s.id for s in table.studio.snapshot.shots] == [3, 1]
    assert "1 of the newest shots cannot be read" in table.heard(Trouble)[0].message


def test_what_shots_taught_by_older_laws_is_said_to_be_learned_anew():
    old = json.loads(IN_HAND.belief.to_json()) | {"start_speed_m_s": {"mean": 0.4, "sd": 0.1}}
    for more, words in (({}, ""), ({"learned": {"names": ["lag_s"], "packed": "AAAA"}}, LEARNED_ANEW)):
        state = KeptState({"belief": json.dumps(old | more)})
        plan = plan_kept(state, IN_HAND)
        assert plan.belief.learned is None and plan.belief.lag_s == IN_HAND.belief.lag_s
        assert state.words == words
