"""The modes of a result: frequencies, participation, effective mass and its running sums, rigid and near-equal ones, energy."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, Field

from ironstone.core.errors import Impossible
from ironstone.core.motion.common import modes_of, motion_field, moved_at
from ironstone.core.motion.inertia import Inertia
from ironstone.core.motion.modes import Shares, by_part, is_rigid, near_equal, rigid_motions, shares_of, strain_energy
from ironstone.core.rounding import settle
from ironstone.core.verdicts import State
from ironstone.core.words import listed
from ironstone.engine.base import Question
from ironstone.engine.carrier import Answer, Column, Figure
from ironstone.engine.motion.mass import mass_of, stated_mass
from ironstone.engine.motion.particulars import ModesMore
from ironstone.engine.reading.answers import number
from ironstone.store import Review
from ironstone.store.source import ReviewSource

# So much of the mass is to move in the modes of each direction (common practice of building codes).
ENOUGH = 0.90
AXES = "xyz"
GAPS = "Some shapes have no value at some nodes: what moves in them is not formed, nor the sums."


class Modes(Question):
    """The modes of a result: frequency, participation and effective mass along x, y, z, running sums, rigid and near-equal ones,
    the share of each part in the strain energy."""

    kind: ClassVar[str] = "modes"
    more: ClassVar[type[BaseModel]] = ModesMore
    loading: str = Field("", max_length=200, description="One set of modes, by the name of its loading; none: all.")
    scaled: Literal["file", "one", "mass"] = Field(
        "file", description="How the shapes are scaled: as the file has them, to a largest motion of 1, to unit modal mass."
    )
    total: float | None = Field(None, gt=0, description="Mass of the whole model, in its own unit, where no densities are stated.")

    def answer(self, review: Review) -> Answer:
        source = self.source(review)
        steps = modes_of(source, self.loading)
        frequencies = np.array([source.steps[s].value for s in steps])
        field = motion_field(source)
        mass = None if field.harmonic else mass_of(review, source, self.total)
        stated = self.total if self.total is not None else stated_mass(review, source)
        shares, bodily, largest = _rescaled(self.scaled, *_by_mode(source, steps, mass))
        group = near_equal(frequencies)
        energy = [strain_energy(source, s) for s in steps]
        parts = list(source.mesh.part_names) if len(source.mesh.part_names) > 1 and energy[0] is not None else []
        rows: list[dict[str, Any]] = [
            {
                "number": k + 1,
                "step": s,
                "frequency": float(frequencies[k]),
                "participation": [number(v) for v in shares.participation[k]] if shares else [None] * 3,
                "effective_mass": [number(v) for v in shares.effective[k]] if shares else [None] * 3,
                "modal_mass": number(float(shares.modal[k])) if shares else None,
                "largest": number(largest[k]),
                "rigid": bool(bodily[k]),
                "near": [int(j) + 1 for j in np.flatnonzero(group == group[k]) if j != k],
                "energy": _shared(source, energy[k]) if parts else [],
            }
            for k, s in enumerate(steps)
        ]
        unit = source.system.mass
        sums = shares.effective.sum(axis=0) / mass.total if shares and mass else None
        gaps = sums is not None and not np.isfinite(sums).all()
        sums = None if gaps else sums
        return Answer(
            kind=self.kind,
            sentence=f"{len(rows)} mode{'s' if len(rows) != 1 else ''} of {source.name}"
            + (f", {self.loading}" if self.loading else "")
            + _scaled(rows, self.scaled),
            unit="Hz",
            columns=_columns(rows, unit, mass, parts),
            figures=_figures(rows, mass, sums, unit),
            caveats=[*([GAPS] if gaps else []), *_said(source, rows, mass, stated, field.harmonic, parts, steps)],
            verdict=_verdict(sums, source.mesh.planar),
            state=_state(sums, source.mesh.planar),
            more={
                "total_mass": mass.total if mass else None,
                "mass_unit": unit,
                "modes": rows,
                "sums": [number(float(v)) for v in sums] if sums is not None else [None] * 3,
                "parts": parts,
            },
        )


def _by_mode(source: ReviewSource, steps: list[int], mass: Inertia | None) -> tuple[Shares | None, list[bool], list[float]]:
    """Shares of the mass, whether rigid, and the largest motion of each mode; one at a time, so that never all are in memory."""
    found, bodily, largest = [], [], []
    motions = rigid_motions(source.mesh.points)
    for step in steps:
        shape = moved_at(source, [step])
        real = np.asarray(shape.real, dtype=np.float64)
        bodily.append(is_rigid(motions, real[0]))
        largest.append(float(np.nanmax(np.linalg.norm(np.abs(shape[0]), axis=1), initial=0.0)))
        if mass is not None:
            found.append(shares_of(real, mass))
    if mass is None:
        return None, bodily, largest
    modal, participation, effective = (
        np.concatenate([getattr(f, name) for f in found]) for name in ("modal", "participation", "effective")
    )
    # A share that is rounding beside the whole mass is none.
    effective = settle(effective, mass.total, motion_field(source).precision)
    return Shares(modal, np.where(effective == 0.0, 0.0, participation), effective), bodily, largest


def _rescaled(
    how: str, shares: Shares | None, bodily: list[bool], largest: list[float]
) -> tuple[Shares | None, list[bool], list[float]]:
    """Shares and largest motions of scaled shapes; effective masses stay. Raises Impossible for a unit mass without a mass."""
    if how == "file":
        return shares, bodily, largest
    if how == "mass" and shares is None:
        raise Impossible(
            "Without the mass no shape can be scaled to a unit of it.", "State densities, or the mass of the whole, in Motion."
        )
    size = np.array(largest)
    with np.errstate(divide="ignore", invalid="ignore"):
        factor = 1.0 / size if how == "one" or shares is None else 1.0 / np.sqrt(shares.modal)
    factor = np.where(np.isfinite(factor), factor, np.nan)
    scaled = None
    if shares is not None:
        scaled = Shares(shares.modal * factor**2, shares.participation / factor[:, None], shares.effective)
    return scaled, bodily, (size * factor).tolist()


def _shared(source: ReviewSource, energy: Any) -> list[float | None]:
    """The share of each part in a mode's strain energy."""
    whole = 0.0 if energy is None else float(energy.sum())
    if energy is None or not whole > 0.0:
        return [None] * len(source.mesh.part_names)
    return [number(float(v) / whole) for v in by_part(source, energy)]


def _columns(rows: list[dict[str, Any]], unit: str, mass: Inertia | None, parts: list[str]) -> list[Column]:
    columns = [
        Column(name="mode", values=[r["number"] for r in rows]),
        Column(name="frequency", unit="Hz", values=[r["frequency"] for r in rows]),
        Column(name="remark", values=[_remark(r) for r in rows]),
        Column(name="largest motion", values=[r["largest"] for r in rows]),
    ]
    if mass is not None:
        columns.append(Column(name="modal mass", unit=unit, values=[r["modal_mass"] for r in rows]))
        columns += [Column(name=f"participation {a}", values=[r["participation"][k] for r in rows]) for k, a in enumerate(AXES)]
        columns += [
            Column(name=f"effective mass {a}", unit=unit, values=[r["effective_mass"][k] for r in rows]) for k, a in enumerate(AXES)
        ]
        for k, a in enumerate(AXES):
            running = np.cumsum([r["effective_mass"][k] or 0.0 for r in rows]) / mass.total
            columns.append(Column(name=f"share of the mass so far {a}", values=running.tolist()))
    columns += [Column(name=f"energy in {p}", values=[r["energy"][k] for r in rows]) for k, p in enumerate(parts)]
    return columns


def _scaled(rows: list[dict[str, Any]], how: str) -> str:
    """How the shapes are scaled, in words; nothing where the file's are taken and the mass is not known."""
    if how != "file":
        return ", shapes scaled to a largest motion of 1" if how == "one" else ", shapes scaled to unit modal mass"
    modal = [r["modal_mass"] for r in rows if r["modal_mass"] is not None]
    if not modal:
        return ""
    # A modal mass is in the model's unit of mass; of shapes scaled to it, it is one.
    return ", shapes of unit modal mass" if max(abs(m - 1.0) for m in modal) < 0.01 else ", shapes as the file has them"


def _remark(row: dict[str, Any]) -> str:
    said = ["moves as a rigid body"] if row["rigid"] else []
    if row["near"]:
        said.append(f"near-equal to {listed(str(n) for n in row['near'])}")
    return ", ".join(said)


def _figures(rows: list[dict[str, Any]], mass: Inertia | None, sums: Any, unit: str) -> list[Figure]:
    elastic = [r["frequency"] for r in rows if not r["rigid"]]
    found = [Figure(label="lowest elastic frequency", value=min(elastic, default=None), unit="Hz")]
    if mass is not None and sums is not None:
        found.append(Figure(label="mass", value=mass.total, unit=unit, how=mass.how))
        found += [Figure(label=f"share moving along {a}", value=float(sums[k]), how="in all modes") for k, a in enumerate(AXES)]
    return found


def _said(
    source: ReviewSource,
    rows: list[dict[str, Any]],
    mass: Inertia | None,
    stated: float | None,
    harmonic: bool,
    parts: list[str],
    steps: list[int],
) -> list[str]:
    said = []
    if harmonic:
        said.append("The modes are complex: participation and effective mass are those of real modes and are not formed.")
    elif mass is None and stated is not None:
        said.append(
            "The stated mass cannot be spread: the volume of some elements is not known (a bar without an area, a shell without a "
            "thickness), or there are none."
        )
    elif mass is None:
        said.append(
            "The mass is not known: no participation and no effective mass. State the densities of the materials, or the mass of "
            "the whole."
        )
    else:
        if (source.mesh.dimensions < 3).any() and not source.mesh.planar:
            said.append("Of shells and bars the translations carry mass; what their rotations carry is left out.")
    if len(source.mesh.part_names) > 1 and not parts:
        said.append(
            "The strain energy of the parts is not known: it takes stress and strain (or constants) of a solid at each mode."
        )
    frequencies = [source.steps[s].value for s in steps]
    if any(b < a for a, b in zip(frequencies, frequencies[1:], strict=False)):
        said.append("The modes are in the order of the file, which is not that of their frequencies.")
    return said


def _short(sums: Any, planar: bool) -> list[int]:
    return [k for k in range(2 if planar else 3) if sums[k] < ENOUGH]


def _verdict(sums: Any, planar: bool) -> str:
    if sums is None:
        return ""
    short = _short(sums, planar)
    if not short:
        return f"At least {100 * ENOUGH:.0f} % of the mass moves in these modes in each direction."
    told = listed(f"{100 * sums[k]:.0f} % along {AXES[k]}" for k in short)
    return (
        f"Only {told} of the mass moves in these modes, less than {100 * ENOUGH:.0f} %: the rest is at held nodes, or in modes "
        "that are not here."
    )


def _state(sums: Any, planar: bool) -> State:
    return "" if sums is None else "doubt" if _short(sums, planar) else "good"
