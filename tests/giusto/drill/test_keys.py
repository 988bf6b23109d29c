"""Keys of drills: pinned, so that none changes unseen, and untouched by a field that comes later."""

from hashlib import sha256
from typing import Any
from unittest import TestCase

from giusto.drill import Drill, validate
from giusto.drill.file import Clicks, Part
from giusto.drill.identity import KEY_LENGTH, VERSION, drill_key, exercise_key, is_current, rung_key
from tests.drills import climbing, fixed, plain

GROWING = {"kind": "growing", "heard": 1, "silent": 1, "step": 1, "max": 6}
RANDOM = {"kind": "random", "unit": "beat", "probability": 0.3, "longest": 3, "seed": 7}
TURNS = [{"cycles": 4, "at": ["1"]}, {"cycles": 4, "at": ["1", "3"]}]
DRILLS: dict[str, dict[str, Any]] = {
    "two heard, two silent": plain(),
    "every beat": plain(silence=None),
    "two and four": plain(on=["2", "4"], silence=None),
    "offbeats": plain(on=["1+1/2", "2+1/2", "3+1/2", "4+1/2"], silence=None),
    "every second cycle": plain(every=2, silence=None),
    "growing": plain(silence=GROWING),
    "random": plain(silence=RANDOM),
    "random cycles": plain(silence=RANDOM | {"unit": "cycle"}),
    "moving": plain(shift={"every_cycles": 2, "by": "1/4"}, silence=None),
    "accents": plain(accent="groups", groups=[2, 2], silence=None),
    "quiet clicks": plain(subdivide=2, silence=None),
    "sixteenths": plain(grid=4),
    "places": plain(play=["1", "2+1/2"]),
    "turns": plain(play=TURNS, silence=None),
    "free": plain(play="free"),
    "seven": plain(beats=7, groups=[2, 2, 3], silence=None),
    "climbing": climbing(),
    "no click": plain(on=[], silence=None) | {"giusto": "free/1"},
    "swung": plain(swing=2),
    "three heard, one silent": plain(silence=fixed(3, 1), count_in=2, close=0, cycles=24),
}
# The first twelve digits of drill, rung and exercise, as they were when the rule became ``k2``.
PINNED: dict[str, tuple[str, str, str]] = {
    "two heard, two silent": ("k2:11ca3f8cd139", "k2:cb6a9a7cfcb0", "k2:d122953219c8"),
    "every beat": ("k2:edd3c9b1ca4b", "k2:3144a4cad1b5", "k2:3ba894a193bc"),
    "two and four": ("k2:488bcce14315", "k2:a69d8da91eb6", "k2:fa1874ff22cc"),
    "offbeats": ("k2:37211949b40a", "k2:648497798e8f", "k2:01e8720807e7"),
    "every second cycle": ("k2:7859dccfc735", "k2:7a7d4d9b9bf1", "k2:3d5b2de1483c"),
    "growing": ("k2:21dc8bbb3cae", "k2:8f42ac7b048c", "k2:77f0862208ba"),
    "random": ("k2:00ac730c43ee", "k2:685f4559ef88", "k2:bd3de8549fe2"),
    "random cycles": ("k2:6846c45b0421", "k2:38e23ad9ab88", "k2:8cb5a9b2f6b7"),
    "moving": ("k2:cdc94b545d9f", "k2:78a01c4c2b47", "k2:aced54baabba"),
    "accents": ("k2:72ddf86ee4ed", "k2:80c049243075", "k2:c4d868279c8c"),
    "quiet clicks": ("k2:5b8faa43ec8d", "k2:599b86dee75f", "k2:b5e8b343d345"),
    "sixteenths": ("k2:17f621b75aca", "k2:a0cadc5af323", "k2:d122953219c8"),
    "places": ("k2:c09977b1207c", "k2:80a066005dc2", "k2:02a3149170e9"),
    "turns": ("k2:d38a347ba8d1", "k2:8ea20c7bee2e", "k2:cae5c98c428f"),
    "free": ("k2:3a832f7c28a5", "k2:475860fcb00f", "k2:500dab47d0f0"),
    "seven": ("k2:0649eb4f1f15", "k2:8061659965a7", "k2:89f2cca41253"),
    "climbing": ("k2:5d943f556b01", "k2:5cb756c0fa0a", "k2:d122953219c8"),
    "no click": ("k2:b50f204218c8", "k2:6bbcaf728f0b", "k2:757e3a321c0e"),
    "swung": ("k2:10e22909ac70", "k2:c7180c0d5ad1", "k2:e7c1d1e23a5d"),
    "three heard, one silent": ("k2:3958c2f5574d", "k2:5fe1d501134e", "k2:d122953219c8"),
}


def keys(drill: Drill) -> tuple[str, str, str]:
    return drill_key(drill), rung_key(drill), exercise_key(drill)


class NewerClicks(Clicks):
    """The click of a version to come."""

    softer: bool = False


class NewerPart(Part):
    """The part of a version to come."""

    louder: float = 1.0


class NewerDrill(Drill):
    """A drill of a version to come: a field more here, one in its click, one in its part."""

    clicks: NewerClicks
    part: NewerPart
    mood: str = "calm"


class KeyTests(TestCase):
    def test_pinned(self) -> None:
        """Who changes one of these empties ladders: raise VERSION, and rekey brings every history over."""
        self.assertEqual(len(DRILLS), 20)
        for name, drill in DRILLS.items():
            with self.subTest(drill=name):
                self.assertEqual(tuple(key[:15] for key in keys(validate(drill))), PINNED[name])

    def test_a_field_to_come_changes_none(self) -> None:
        for name, drill in DRILLS.items():
            if drill["giusto"] == "free/1":
                continue
            with self.subTest(drill=name):
                self.assertEqual(keys(NewerDrill.model_validate(drill)), keys(validate(drill)))

    def test_a_field_to_come_that_says_something_makes_another_drill(self) -> None:
        one = DRILLS["two heard, two silent"]
        newer = NewerDrill.model_validate(one | {"clicks": {**one["clicks"], "softer": True}})
        for mine, other in zip(keys(newer), keys(validate(one)), strict=True):
            self.assertNotEqual(mine, other)

    def test_swing_changes_none_of_the_drills_without_it(self) -> None:
        straight = {name: drill for name, drill in DRILLS.items() if drill["giusto"] in ("drill/1", "drill/2")}
        for name, drill in straight.items():
            with self.subTest(drill=name):
                said = drill | {"giusto": "drill/3", "clicks": {**drill["clicks"], "swing": 1}}
                self.assertEqual(keys(validate(said)), keys(validate(drill)))

    def test_all_differ(self) -> None:
        found = [drill_key(validate(drill)) for drill in DRILLS.values()]
        self.assertEqual(len({*found}), len(found))

    def test_by_hand(self) -> None:
        """A key is the digest of what is beyond the defaults, written canonically, behind its version."""
        said = '{"clicks": {"on": ["1", "2", "3", "4"]}, "cycle": {"beats": 4}, "part": {}}'
        drill = validate(DRILLS["every beat"])
        self.assertEqual(exercise_key(drill), f"{VERSION}{sha256(said.encode()).hexdigest()[:32]}")

    def test_a_key_says_its_version(self) -> None:
        for key in keys(validate(plain())):
            self.assertTrue(is_current(key))
            self.assertLessEqual(len(key), KEY_LENGTH)
        self.assertFalse(is_current("6b324a55c72b9c64"))
