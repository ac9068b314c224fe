"""Writes addresses as the engine writes them, for the front end's tests: ``python -m tools.addresses`` prints their list.

The page and the engine both read and write what is in view as an address: what one writes the other must understand.
"""

from __future__ import annotations

import json

from ironstone.engine.kept.in_view import InView
from ironstone.engine.words import ReadingWords

STRESS = ReadingWords(field="stress", measure="von-mises")
# fmt: off
VIEWS = (
    InView(result=2, reading=STRESS, step=14),
    InView(bay="balance", result=2, reading=STRESS, exaggeration=20, low=-3.5, high=120, fit="set", bands=24, map="vik"),
    InView(result=3, reading=STRESS.model_copy(update={"averaging": "part", "order": "measure", "unit": "ksi"}), log=True, bands=0),
    InView(result=1, reading=STRESS, hidden=[0, 3], translucent=[2], detail=8, style="inside", perspective=True, mirrored=False),
    InView(result=1, reading=STRESS, arrows=["snow load", "0.2", "0.04", "full", "outside", "split", "set"], labelled=False),
    InView(result=1, reading=STRESS, nodes=True, apart=True, solid=True, mesh_lines=False, undeformed=False, weigh="volume"),
    InView(bay="path", result=1, reading=STRESS, paths=[3, 5], gauges=7, along=True, drawer="gauges", distance="relative"),
    InView(bay="path", result=1, reading=STRESS, paths=[], linearise=True, formula="90*(1+3/x**2)", profile_test=4),
    InView(bay="trace", result=1, reading=STRESS, pairing=4, also=[2, 3], test=6, plot="cycles", strata=False, flags="3:max"),
    InView(bay="strength", result=4, reading=STRESS, element=12, criterion="puck", envelope="11-22,free", drawer="stack"),
    InView(result=2, reading=STRESS, twin="result=1&field=stress&measure=von-mises&step=3", active=2, untied=["step", "limits"]),
    InView(bay="trace", result=2, reading=STRESS, front="0.05:1,0,0", plot="front"),
    InView(bay="balance", result=2, reading=STRESS, between="part 1|part 2", drawer="contact"),
    InView(bay="compare", result=2, reading=STRESS, second=1, study="1,2:lowest:unknowns", drawer="meshes"),
    InView(bay="compare", result=2, reading=STRESS, governing="magnitude:element", drawer="cases", table=3),
    InView(bay="motion", result=3, reading=STRESS, motion="2;y;level;1.3;decay;node:12", drawer="response", swing=135),
    InView(
        bay="motion", result=3, reading=STRESS, motion=";x;bands;;rebound;set:a", responses="test%3A4;of%3A2%3Anode%3A7",
        motion_ways="scaled=mass;reference=0.002;weighting=A;offFrequency=0.1;offAmplitude=0.4;leastFrac=0.5;unwrapped=true;"
        "window=flattop;pieces=4;lasts=0.25;damping=0.02;within=0.1;meets=node%3A3;pushed=held%20end;moves=carrier",
    ),
    InView(result=1, reading=STRESS, camera=[1, -2.5, 3, 0, 0, 0.25, 4.125], cut=5, member=2, iso="alone", drawer="cuts"),
)
# fmt: on


def listed() -> str:
    return json.dumps([view.address() for view in VIEWS], indent=2) + "\n"


if __name__ == "__main__":
    print(listed(), end="")
