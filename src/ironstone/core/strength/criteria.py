"""Failure criteria of a unidirectional ply in plane stress: index, reserve factor and mode, of many stresses at once.

Every criterion is a list of modes. A mode is a quadratic form of the stress in ply axes, s P s + p s, that is 1 at failure, and a
condition on signs under which it holds. The reserve factor multiplies what scales; it is the smallest R from 0 on at which a mode
is met, a root of a R^2 + b R + c = 1 with c from what does not scale. (No mode of these criteria is met as a stress comes into it
that was not met in the one it left.) What does not scale may fail a ply by itself: then it is 0, and a load at which the ply would
stop failing is no reserve.

Sources, from memory: Tsai and Wu (1971), Hoffman (1967), Azzi and Tsai (1965) for Tsai-Hill, Hashin (1980), Puck and Schuermann
(1998, 2002); maximum stress and strain are common practice.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ironstone.core.errors import Impossible, NotFound
from ironstone.core.mesh.mesh import Float
from ironstone.core.strength.laminate import PlyMaterial

FAR = 1e12
# What does not scale fails by itself beyond 1 by more than rounding.
MET = 1e-9


@dataclass(frozen=True, eq=False)
class Mode:
    """A way to fail: s square s + linear s + constant is 1 where it does. linear (3,), square (3, 3).

    signs: of the stress components 11 and 22 under which it holds, 0 for either; when: another condition, (n, 3) -> (n,). own: the
    criterion's own expression where that is not the quadratic form.
    """

    words: str
    linear: Float
    square: Float
    signs: tuple[int, int] = (0, 0)
    constant: float = 0.0
    when: Callable[[Float], NDArray[np.bool_]] | None = None
    own: Callable[[Float], Float] | None = None

    def form(self, stress: Float) -> Float:
        """The quadratic form (n,) at stresses (n, 3), whether the mode holds or not: 1 where it is met."""
        return _straight(stress, self.linear) + _form(stress, self.square, stress) + self.constant

    def value(self, stress: Float) -> Float:
        """The criterion's expression (n,) at stresses (n, 3); NaN where the mode does not hold."""
        if self.own is not None:
            with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
                found = self.own(stress)
        else:
            found = self.form(stress)
        return np.where(self.holds(stress), found, np.nan)

    def exposure(self, stress: Float) -> Float:
        """1 / reserve (n,) where all of a stress (n, 3) scales; below zero where the mode is never met. The conditions of a mode
        do not change as a stress is scaled, so that one root is left: of a R^2 + b R = 1, or of a R + b = 0 where the constant
        is 1."""
        a, b = _form(stress, self.square, stress), _straight(stress, self.linear)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            if self.constant:
                found = np.where(b < 0, -a / b, -1.0)
            elif not self.square.any():
                found = b
            else:
                crosses = b * b + 4 * a
                found = np.where(crosses >= 0, (b + np.sqrt(np.maximum(crosses, 0.0))) / 2, -1.0)
        return np.where(self.holds(stress), found, -1.0)

    def holds(self, stress: Float) -> NDArray[np.bool_]:
        if self.when is None and self.signs == (0, 0):
            return np.ones(len(stress), dtype=bool)
        kept = np.ones(len(stress), dtype=bool)
        for axis, sign in enumerate(self.signs):
            if sign:
                kept &= stress[:, axis] * sign >= 0
        return kept if self.when is None else kept & self.when(stress)

    def reserve(self, scaled: Float, fixed: Float) -> Float:
        """The smallest factor from 0 on at which it is met (n,), infinite where it never is."""
        a = _form(scaled, self.square, scaled)
        b = _straight(scaled, self.linear) + 2 * _form(scaled, self.square, fixed)
        c = _straight(fixed, self.linear) + _form(fixed, self.square, fixed) + self.constant - 1.0
        # Met without load; or just about to be, and any load makes it more. (With a constant c is nothing without a stress.)
        about = (c >= 0.0) & ((b > 0.0) | ((b == 0.0) & (a > 0.0))) & (self.constant == 0.0)
        best = np.where(self.holds(fixed) & ((c > MET) | about), 0.0, np.inf)
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
            # Of two roots the one without cancellation, the other by their product; of a straight line -c/b.
            half = -(b + np.where(b >= 0, root, -root)) / 2
            crosses = b * b - 4 * a * c >= 0
            for factor in (half / a, c / half):
                real = (factor > 0) & (factor < FAR) & (factor < best) & crosses
                # A factor counts where the mode holds at it.
                real &= self.holds(np.round(np.where(real, factor, 0.0)[:, None] * scaled + fixed, 12))
                best = np.where(real, factor, best)
        return best


def _form(one: Float, square: Float, other: Float) -> Float:
    """one . square . other of each row, (n,)."""
    found = np.zeros(len(one))
    for i, j in zip(*np.nonzero(square), strict=True):
        found += square[i, j] * (one[:, i] * other[:, j])
    return found


def _straight(stress: Float, linear: Float) -> Float:
    """linear . stress of each row, (n,)."""
    found = np.zeros(len(stress))
    for i in np.flatnonzero(linear):
        found += linear[i] * stress[:, i]
    return found


@dataclass(frozen=True, eq=False)
class Outcome:
    """index: the criterion's own expression, 1 at failure; reserve: what the scaled part may be multiplied by, 0 where the other
    part fails without it; mode: position in ``modes`` of what fails first under scaling. All (n,)."""

    index: Float
    reserve: Float
    mode: NDArray[np.int64]
    modes: tuple[str, ...]


@dataclass(frozen=True)
class Criterion:
    """A criterion by its name, what it needs of a material, and its modes for one."""

    name: str
    label: str
    needs: tuple[str, ...]
    modes: Callable[[PlyMaterial], list[Mode]]

    def lacking(self, material: PlyMaterial) -> list[str]:
        return [n for n in self.needs if n not in material.constants]

    def check(self, material: PlyMaterial, scaled: Float, fixed: Float | None = None) -> Outcome:
        """Index, reserve factor and mode of stresses (n, 3) in ply axes; fixed: a part that does not scale (thermal, residual)."""
        # Columns are read one by one: they lie together.
        scaled = np.asfortranarray(np.atleast_2d(np.asarray(scaled, dtype=np.float64)))
        modes = self.modes(material)
        if fixed is None:
            return self._all_scaled(modes, scaled)
        fixed = np.broadcast_to(fixed, scaled.shape)
        values = np.stack([m.value(scaled + fixed) for m in modes])
        reserves = np.stack([m.reserve(scaled, fixed) for m in modes])
        there = np.isfinite(scaled + fixed).all(1)
        with np.errstate(invalid="ignore"):
            index = np.where(there, np.nanmax(np.where(np.isnan(values), -np.inf, values), axis=0), np.nan)
        reserve = np.where(there, reserves.min(0), np.nan)
        # Of modes met at once, as where all are met without load, the one that is met farthest.
        first = np.where(np.isfinite(reserve) & (reserves > reserve), -np.inf, np.where(np.isnan(values), -1e300, values))
        mode = first.argmax(0)
        return Outcome(index, reserve, mode, tuple(m.words for m in modes))

    def exposures(self, material: PlyMaterial, stress: Float) -> tuple[Float, NDArray[np.int64]]:
        """Exposure (1 / reserve) and mode (n,) of stresses (n, 3) all of which scale; 0 where nothing is ever met."""
        return _largest(self.modes(material), np.asfortranarray(stress))

    def _all_scaled(self, modes: list[Mode], stress: Float) -> Outcome:
        exposure, mode = _largest(modes, stress)
        index = np.full(len(stress), -np.inf)
        for m in modes:
            index = np.fmax(index, m.value(stress))
        there = ~np.isnan(exposure)
        with np.errstate(divide="ignore", over="ignore"):
            reserve = np.where(exposure > 1.0 / FAR, 1.0 / np.where(there, exposure, 1.0), np.where(there, np.inf, np.nan))
        return Outcome(np.where(there, index, np.nan), reserve, mode, tuple(m.words for m in modes))


def _largest(modes: list[Mode], stress: Float) -> tuple[Float, NDArray[np.int64]]:
    """The largest exposure of the modes, NaN where a stress is missing, and whose it is."""
    best, mode = np.full(len(stress), -np.inf), np.zeros(len(stress), dtype=np.int64)
    for k, m in enumerate(modes):
        now = m.exposure(stress)
        beyond = now > best
        np.copyto(best, now, where=beyond)
        mode[beyond] = k
    return np.where(np.isfinite(stress).all(1), np.maximum(best, 0.0), np.nan), mode


def _mode(
    words: str, linear: tuple[float, float, float], square: dict[tuple[int, int], float], signs: tuple[int, int] = (0, 0)
) -> Mode:
    table = np.zeros((3, 3))
    for (i, j), value in square.items():
        table[i, j] += value / 2
        table[j, i] += value / 2
    return Mode(words, np.array(linear), table, signs)


FIBRE_T, FIBRE_C = "fibre, tension", "fibre, compression"
MATRIX_T, MATRIX_C, SHEAR = "matrix, tension", "matrix, compression", "shear in the ply"


def _max_stress(m: PlyMaterial) -> list[Mode]:
    return [
        _mode(FIBRE_T, (1 / m["Xt"], 0, 0), {}),
        _mode(FIBRE_C, (-1 / m["Xc"], 0, 0), {}),
        _mode(MATRIX_T, (0, 1 / m["Yt"], 0), {}),
        _mode(MATRIX_C, (0, -1 / m["Yc"], 0), {}),
        _mode(SHEAR, (0, 0, 1 / m["S12"]), {}),
        _mode(SHEAR, (0, 0, -1 / m["S12"]), {}),
    ]


def _max_strain(m: PlyMaterial) -> list[Mode]:
    """Ultimate strains as stated (e1t, e1c, e2t, e2c, g12), else strength over modulus."""
    e1, e2, g, nu = (m[n] for n in ("E1", "E2", "G12", "nu12"))
    one, two = np.array([1 / e1, -nu / e1, 0]), np.array([-nu / e1, 1 / e2, 0])
    limits = [
        (FIBRE_T, one, m.get("e1t", 0.0) or m["Xt"] / e1),
        (FIBRE_C, -one, m.get("e1c", 0.0) or m["Xc"] / e1),
        (MATRIX_T, two, m.get("e2t", 0.0) or m["Yt"] / e2),
        (MATRIX_C, -two, m.get("e2c", 0.0) or m["Yc"] / e2),
        (SHEAR, np.array([0, 0, 1 / g]), m.get("g12", 0.0) or m["S12"] / g),
        (SHEAR, np.array([0, 0, -1 / g]), m.get("g12", 0.0) or m["S12"] / g),
    ]
    return [Mode(words, strain / limit, np.zeros((3, 3))) for words, strain, limit in limits]


def _tsai_hill(m: PlyMaterial) -> list[Mode]:
    found = []
    for one in (1, -1):
        for two in (1, -1):
            x, y = m["Xt"] if one > 0 else m["Xc"], m["Yt"] if two > 0 else m["Yc"]
            square = {(0, 0): 1 / x**2, (0, 1): -1 / x**2, (1, 1): 1 / y**2, (2, 2): 1 / m["S12"] ** 2}
            found.append(_mode("interaction", (0, 0, 0), square, (one, two)))
    return found


def _tsai_wu(m: PlyMaterial) -> list[Mode]:
    """F12 as stated, else -1/2 sqrt(F11 F22)."""
    xt, xc, yt, yc = (m[n] for n in ("Xt", "Xc", "Yt", "Yc"))
    f11, f22 = 1 / (xt * xc), 1 / (yt * yc)
    f12 = m.get("F12", -0.5 * float(np.sqrt(f11 * f22)))
    square = {(0, 0): f11, (1, 1): f22, (2, 2): 1 / m["S12"] ** 2, (0, 1): 2 * f12}
    return [_mode("interaction", (1 / xt - 1 / xc, 1 / yt - 1 / yc, 0), square)]


def _hoffman(m: PlyMaterial) -> list[Mode]:
    xt, xc, yt, yc = (m[n] for n in ("Xt", "Xc", "Yt", "Yc"))
    square = {(0, 0): 1 / (xt * xc), (0, 1): -1 / (xt * xc), (1, 1): 1 / (yt * yc), (2, 2): 1 / m["S12"] ** 2}
    return [_mode("interaction", (1 / xt - 1 / xc, 1 / yt - 1 / yc, 0), square)]


def _hashin(m: PlyMaterial) -> list[Mode]:
    """Four modes; the transverse shear strength S23 as stated, else half of Yc."""
    s, st, yc = m["S12"], m.get("S23", m["Yc"] / 2), m["Yc"]
    shear = {(2, 2): 1 / s**2}
    return [
        _mode(FIBRE_T, (0, 0, 0), {(0, 0): 1 / m["Xt"] ** 2, **shear}, (1, 0)),
        _mode(FIBRE_C, (0, 0, 0), {(0, 0): 1 / m["Xc"] ** 2}, (-1, 0)),
        _mode(MATRIX_T, (0, 0, 0), {(1, 1): 1 / m["Yt"] ** 2, **shear}, (0, 1)),
        _mode(MATRIX_C, (0, ((yc / (2 * st)) ** 2 - 1) / yc, 0), {(1, 1): 1 / (4 * st**2), **shear}, (0, -1)),
    ]


def _puck(m: PlyMaterial) -> list[Mode]:
    """Fibre failure by the stress along it; between the fibres modes A, B and C. Inclinations ptp, pcp as stated, else 0.35 and
    0.30 (usual of carbon fibres)."""
    s, yt, yc = m["S12"], m["Yt"], m["Yc"]
    pt, pc = m.get("ptp", 0.35), m.get("pcp", 0.30)
    across = s / (2 * pc) * (np.sqrt(1 + 2 * pc * yc / s) - 1)
    pcc = pc * across / s
    shear_c = s * np.sqrt(1 + 2 * pcc)
    wide = 4 * (1 + pcc) ** 2 * s**2
    steep = (1 - pt * yt / s) ** 2 / yt**2

    def little(stress: Float) -> NDArray[np.bool_]:
        return np.asarray(np.abs(stress[:, 1]) * shear_c <= np.abs(stress[:, 2]) * across)

    def mode_a(stress: Float) -> Float:
        t, n = stress[:, 2], stress[:, 1]
        return np.asarray(np.sqrt((t / s) ** 2 + steep * n**2) + pt * n / s)

    def mode_b(stress: Float) -> Float:
        t, n = stress[:, 2], stress[:, 1]
        return np.asarray((np.sqrt(t**2 + (pc * n) ** 2) + pc * n) / s)

    def mode_c(stress: Float) -> Float:
        t, n = stress[:, 2], stress[:, 1]
        return np.asarray((t**2 / wide + (n / yc) ** 2) * yc / -n)

    def form(n: float, nn: float, tt: float) -> tuple[Float, Float]:
        return np.array([0.0, n, 0.0]), np.diag([0.0, nn, tt])

    return [
        _mode(FIBRE_T, (1 / m["Xt"], 0, 0), {}),
        _mode(FIBRE_C, (-1 / m["Xc"], 0, 0), {}),
        Mode("between the fibres, A (opening)", *form(2 * pt / s, steep - (pt / s) ** 2, 1 / s**2), (0, 1), own=mode_a),
        Mode("between the fibres, B (shear)", *form(2 * pc / s, 0.0, 1 / s**2), (0, -1), when=little, own=mode_b),
        Mode(
            "between the fibres, C (wedge)",
            *form(1 / yc, 1 / yc**2, 1 / wide),
            (0, -1),
            constant=1.0,
            when=lambda stress: ~little(stress),
            own=mode_c,
        ),
    ]


ALL = ("Xt", "Xc", "Yt", "Yc", "S12")
CRITERIA: dict[str, Criterion] = {
    c.name: c
    for c in (
        Criterion("max-stress", "maximum stress", ALL, _max_stress),
        Criterion("max-strain", "maximum strain", (*ALL, "E1", "E2", "G12", "nu12"), _max_strain),
        Criterion("tsai-hill", "Tsai-Hill", ALL, _tsai_hill),
        Criterion("tsai-wu", "Tsai-Wu", ALL, _tsai_wu),
        Criterion("hoffman", "Hoffman", ALL, _hoffman),
        Criterion("hashin", "Hashin (1980)", ALL, _hashin),
        Criterion("puck", "Puck", ALL, _puck),
    )
}


def criterion_of(name: str) -> Criterion:
    """A criterion by its name. Raises NotFound with the names there are."""
    if name not in CRITERIA:
        raise NotFound(f"There is no criterion '{name}'.", f"There are: {', '.join(CRITERIA)}.")
    return CRITERIA[name]


BOND, BOND_WORDS = "bond", "bond line"
# Where none is named.
USUAL = "hashin"


@dataclass(frozen=True)
class Check:
    """A criterion, with or without the bond lines between the plies: 'hashin', 'hashin+bond'."""

    criterion: Criterion
    bond: bool

    @property
    def name(self) -> str:
        return self.criterion.name + (f"+{BOND}" if self.bond else "")

    @property
    def label(self) -> str:
        return self.criterion.label + (" with the bond lines" if self.bond else "")

    @property
    def needs(self) -> tuple[str, ...]:
        return (*self.criterion.needs, *(("S13", "S23") if self.bond else ()))

    def lacking(self, materials: Iterable[PlyMaterial]) -> list[str]:
        """What the materials lack, in words: 'S12 of carbon'."""
        return [f"{n} of {m.name}" for m in materials for n in self.needs if n not in m.constants]

    def refuse_if_lacking(self, materials: Iterable[PlyMaterial]) -> None:
        """Raise Impossible, naming what is missing of which material."""
        if lacking := self.lacking(materials):
            raise Impossible(f"{self.label} needs more of the materials.", f"Missing: {', '.join(lacking)}.")


def check_of(text: str) -> Check:
    """A criterion, perhaps with '+bond' behind its name. Raises NotFound with the names there are."""
    name, plus, bond = text.partition("+")
    if plus and bond != BOND:
        raise NotFound(f"'{text}' is no criterion.", f"Write NAME or NAME+{BOND}.")
    return Check(criterion_of(name), bool(plus))


def mode_words(check: Check, materials: Sequence[PlyMaterial]) -> tuple[str, ...]:
    """All ways to fail that a criterion knows, in order."""
    words = [m.words for material in materials[:1] for m in check.criterion.modes(material)]
    return tuple(dict.fromkeys([*words, *([BOND_WORDS] if check.bond else [])]))


WITHOUT_LOAD = "fails without load"


def reserve_of(exposure: float) -> float | None:
    """What the loads may be multiplied by at an exposure: 0 of what fails without load (an exposure without bound), None of what
    never fails or has no value."""
    return 1.0 / exposure if exposure > 0.0 else None


def bond_exposure(material: PlyMaterial, shear: Float) -> Float:
    """Exposure of a bond line beside a ply, (n,): the root of the quadratic sum of the two interlaminar shears (n, 2), 23 and 13,
    over their strengths; common practice."""
    return np.asarray(np.hypot(shear[:, 0] / material["S23"], shear[:, 1] / material["S13"]), dtype=np.float64)
