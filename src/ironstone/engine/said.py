"""What words that several questions and commands take are said to be, and their usual values.

Little is loaded for it: a command that only lists its options needs no more than this.
"""

from __future__ import annotations

from ironstone.core.strength.criteria import CRITERIA

SIDE = "The part the line belongs to, where it runs along a border."
STRAIN_GAUGE = "The strain along each gauge on the surface, the mean over its length."
CRITERION = f"One of {', '.join(CRITERIA)}; with +bond behind it also the bond lines between the plies."
ACCEPT = 0.10
ACCEPT_SAID = "What the mean of predicted over tested may be off by."
PLACE = "node:ID, element:ID, point:X,Y,Z or set:NAME."
SWEEP = "One sweep, by the name of its loading; none: all frequencies."
