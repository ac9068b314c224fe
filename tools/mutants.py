# ruff: noqa: E501
"""Does a wrong rule fail a test? Each mutant is one rule of the core written wrongly; the tests named beside it must fail on it.

``python -m tools.mutants`` (or ``make mutants``) tries them all, two at a time, each in a copy of the source, and prints a table; it
ends with status 1 where fewer than nine in ten are found. ``python -m tools.mutants WORD`` tries those whose module has the word.
Takes a few minutes. A mutant whose text is not in the source any more is an error: the table is kept with the code.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LEAST = 0.9


@dataclass(frozen=True)
class Mutant:
    """module: in ``ironstone``. right, wrong: a piece of its text and what stands there instead. tests: below ``tests``."""

    module: str
    right: str
    wrong: str
    tests: str


O, C = "oracles/test_", "core/test_"  # noqa: E741
MUTANTS = (
    # What files leave open: order of points, roles, steps, layouts, names, loads; the log, seals, bounds
    Mutant("gauss_order", "there = np.lexsort(keys)\n        return np.argsort(there)", "return np.lexsort(keys)", f"{O}order_of_points.py"),
    Mutant("gauss_order", "return np.argsort(numbers) if", "return np.array(numbers) - 1 if", f"{O}order_of_points.py"),
    Mutant("proved_points", "return np.argsort(point).tolist()", "return point.tolist()", f"{O}order_of_points.py"),
    Mutant("proved_points", "off[..., :3] -= off[..., :3].mean(axis=-1, keepdims=True)", "pass", f"{O}order_of_points.py"),
    Mutant("meant", "table[mine, : len(order)] = table[mine][:, order]", "table[mine, : len(order)] = table[mine]", f"{O}order_of_points.py"),
    Mutant("roles", "if taken == PARTS and stated != PARTS and", "if False and", "store/test_stated.py"),
    Mutant("roles", "material, material_names = None, ()", "pass", "store/test_stated.py"),
    Mutant("moments", "first + more * i", "first + more * (i + 1)", "store/test_stated.py"),
    Mutant("weld", "(0, 1, 2, 3) if len(names) == 4 else (0, 1, 3)", "(0, 1, 2, 3)[: len(names)]", "store/test_stated.py"),
    Mutant("titles", "if sum(_wanted(n, fields) == own for n in fields) > 1:", "if False:", "store/test_stated.py"),
    Mutant("loaded", "error <= OFF * largest", "True", f"{O}patches.py"),
    Mutant("loaded", "held |= done.reaction >", "held &= done.reaction >", f"{O}patches.py"),
    Mutant("companions", "self.arrays[title] = replace(held, values=_spread(held.values, there, nodes, len(points)))", "pass", "store/test_points_alone.py"),
    Mutant("log_of", "told == number_in(path) or", "False or", "store/test_log.py"),
    Mutant("settling", "if identity(self.path) != self._file:", "if False:", "store/test_log.py"),
    Mutant("held", "if found is None and (field_id, step) in self._lost:", "if False:", "store/test_damaged_cells.py"),
    Mutant("models", "return row.seal is None or row.seal == _mark(row, cells)", "return True", "store/test_damaged_cells.py"),
    Mutant("discarding", "return sorted(going), results, files - kept", "return sorted(going), results, files", "store/test_discarding.py"),
    # Plies of files, axes of shells, conventions, pieces, patches
    Mutant("stacked", "n - lowest if spread", "n if spread", "store/test_plies_in_files.py"),
    Mutant("stacked", "if not spread:\n        note", "if spread:\n        note", "store/test_plies_in_files.py"),
    Mutant("shell_axes", "shear = c * s * (yy - xx)", "shear = c * s * (xx - yy)", f"{O}shell_axes.py"),
    Mutant("shell_axes", "half = xy / 2 if engineering", "half = xy if engineering", f"{O}shell_axes.py"),
    Mutant("shell_axes", "np.cross(mine, wanted)", "np.cross(wanted, mine)", f"{O}shell_axes.py"),
    Mutant("proved", "0.5 if shear == ENGINEERING else 1.0", "1.0", f"{O}conventions.py"),
    Mutant("proved", "if not 0.0 < reach < SMALL:", "if not 0.0 < reach:", f"{O}conventions.py"),
    Mutant("proved", "second >= TIMES * best", "True", f"{O}conventions.py"),
    Mutant("patches", "(done.moved[nodes, axis] <= done.loose", "(done.moved[nodes, axis - 1] <= done.loose", f"{O}patches.py"),
    Mutant("patches", "members.mean() > SHARE", "False", f"{O}patches.py"),
    Mutant("merged", "& 1) == 0)", "& 2) == 0)", "formats/test_collections.py"),
    Mutant("weld", "alone = np.isin(label, twice)", "alone = np.isin(label, [])", "formats/test_collections.py"),
    Mutant("sense", "below.all(1), -1", "below.all(1), 0", f"{O}conventions.py"),
    Mutant("curves", "kept.append(cycle.way_back / first.way_back", "kept.append(cycle.secant_stiffness / first.secant_stiffness", f"{C}curves.py"),
    Mutant("kinds", "values >= 1.0", "values > 1.2", "store/test_plies_in_files.py"),
    Mutant("drawing", "(low + high) / 2 if", "low / 2 if", "engine/test_base.py"),
    # Tensors
    Mutant("tensors", "np.sqrt(1.5 * _contraction", "np.sqrt(1.0 * _contraction", f"{C}tensors.py"),
    Mutant("tensors", "+ 2.0 * (tensor[..., 3:] ** 2)", "+ (tensor[..., 3:] ** 2)", f"{C}tensors.py"),
    Mutant("tensors", "return tresca(tensor) / 2.0", "return tresca(tensor)", f"{C}tensors.py"),
    Mutant("tensors", "1e-6 * np.abs(tensor)", "1e-12 * np.abs(tensor)", f"{O}small_rules.py"),
    Mutant("tensors", "return -mean(stress)", "return mean(stress)", f"{C}tensors.py"),
    Mutant("tensors", "-p[..., 2] > p[..., 0] * (1.0 + 1e-12)", "-p[..., 2] < p[..., 0] * (1.0 + 1e-12)", f"{C}tensors.py"),
    # Averaging and jumps
    Mutant("averaging", "group[line] = group.max(initial=0) + 1", "group[line] = group.max(initial=0) + 0 *", f"{C}averaging.py {C}bars.py {O}small_rules.py"),
    Mutant("averaging", "    if all_that_meets:\n        return group\n", "", f"{O}small_rules.py"),
    Mutant("averaging", 'if weight == "plain" else mesh.volumes', 'if weight == "plain" else 1 / mesh.volumes', f"{O}small_rules.py"),
    Mutant("averaging", "cosine = np.cos(np.radians(fold))", "cosine = np.sin(np.radians(fold))", f"{C}breaks.py {C}averaging.py"),
    Mutant("corners", "np.fmax.reduceat(raw, begins) - np.fmin", "np.fmax.reduceat(raw, begins) + 0 * np.fmin", f"{O}small_rules.py"),
    # Readings
    Mutant("reading", 'changes |= {"over": "step", "span": "all", "when": False}', "pass", f"{O}sentences.py"),
    Mutant("reading", "return replace(self, step=step, against=self.against.at(step))", "return replace(self, step=step)", f"{O}sentences.py"),
    Mutant("resolved", 'words = ", by volume" if', 'words = "" if', f"{O}sentences.py"),
    Mutant("resolved", '"region": f"on {region_words(reading.region)}"', '"region": ""', f"{O}sentences.py"),
    Mutant("resolved", "plain = name\n", "pass\n", f"{O}sentences.py"),
    Mutant("resolved", "{v:.15g}", "{v:g}", f"{O}sentences.py"),
    Mutant("resolve", "step {reading.step + 1} of {count}", "", f"{O}sentences.py {O}small_rules.py"),
    Mutant("reduced", '"largest": second > first', '"largest": second < first', f"{C}over_steps.py"),
    Mutant("evaluate", "values=values.values - other.values", "values=values.values + other.values", f"{C}over_steps.py"),
    Mutant("evaluate", "return _said_of_elements(resolved)", "return resolved", f"{O}small_rules.py"),
    Mutant("measures", "if found.only and kind and", "if False and", f"{O}small_rules.py"),
    Mutant("where", "return AtCorners(members)", "return AtNodes(np.unique(mesh.connectivity[mesh.corners_of(members)]))", f"{O}sets.py"),
    # Gauss points
    Mutant("evaluate", "from_gauss = resolved.field", "from_gauss = False and resolved.field", f"{O}gauss_fields.py"),
    Mutant("gauss_fields", "if filled <= n <= field.points", "if False", f"{O}gauss_fields.py"),
    Mutant("gauss", "0.223381589678011", "0.233381589678011", f"{O}gauss_fields.py"),
    Mutant("gauss", "tuple(reversed(p)) for p in product(*reversed(axes))", "p for p in product(*axes)", f"{O}gauss_fields.py {C}gauss.py"),
    # Units
    Mutant("units", "* scale + offset", "* scale", f"{O}small_rules.py"),
    Mutant("resolve", 'offset=0.0 if reading.of != "value" else offset', "offset=offset", f"{O}small_rules.py"),
    Mutant("units", '"degC": "K"', '"degC": "degC"', f"{O}small_rules.py"),
    # Cuts
    Mutant("cut", "away >= 0.0 if side == BELOW else away > 0.0", "away > 0.0", f"{O}planes.py"),
    Mutant("cut", "away[np.abs(away) <= NEAR * mesh.size] = 0.0", "pass", f"{O}planes.py"),
    Mutant("cut", "for _ in range(30):", "for _ in range(0):", f"{O}planes.py"),
    Mutant("section", "return [0.5, 0.5]", "return [1.0, 0.0]", f"{O}planes.py"),
    Mutant("section", "[1.0, 0.0] if below < above else [0.0, 1.0]", "[0.0, 1.0] if below < above else [1.0, 0.0]", f"{O}planes.py"),
    Mutant("section", "size = at.size * _width(source, at, thickness)", "size = at.size", f"{O}planes.py"),
    Mutant("section", "moment - np.cross(point, force)", "moment + np.cross(point, force)", f"{O}planes.py"),
    # Balance
    Mutant("balance", "total *= 1 if half is None else 2", "pass", f"{O}nodal_forces.py"),
    Mutant("balance", "return round_axis(found) if turned else found", "return found", f"{O}nodal_forces.py"),
    Mutant("balance", "taken = still | driven", "taken = still", f"{O}nodal_forces.py"),
    Mutant("balance", "np.cross(points - about, known)", "np.cross(points, known)", f"{C}balance.py"),
    Mutant("kinds", "words & set(_OTHER_FORCES)", "False", f"{O}nodal_forces.py"),
    Mutant("recover", "weights = weights * thickness[block.elements][:, None]", "pass", f"{O}planes.py"),
    Mutant("recover", "enumerate((smooth - raw, raw))", "enumerate((smooth - raw, smooth))", f"{O}small_rules.py"),
    # Curves
    Mutant("curves", "(u[top] - u[bottom]))\n", "u[top] * 2)\n", f"{O}cycles.py {C}curves.py"),
    Mutant("curves", "+ float((f[0] + f[-1]) / 2.0 * (u[0] - u[-1]))", "", f"{O}cycles.py {C}curves.py"),
    Mutant("reversals", "NOISES = 8.0", "NOISES = 2.0", f"{O}cycles.py"),
    Mutant("reversals", "alternates < -0.5", "alternates < 9", f"{O}cycles.py"),
    Mutant("monotonic", "yield_force=loading.side * float(yield_force)", "yield_force=float(yield_force)", f"{O}cycles.py"),
    Mutant("branch_pairs", "LEFT_OUT, START, END = 0.2", "LEFT_OUT, START, END = 2.0", f"{O}agreement.py"),
    Mutant("branch_pairs", "LEFT_OUT, START, END = 0.2, 1.0", "LEFT_OUT, START, END = 0.2, 0.0", f"{O}agreement.py"),
    Mutant("branch_pairs", "result: Float = np.where(still", "result: Float = np.where(False & still", f"{O}agreement.py"),
    Mutant("match", "LOW, HIGH, PLACES = 0.1, 0.4", "LOW, HIGH, PLACES = 0.1, 0.8", f"{O}agreement.py {C}match.py"),
    Mutant("match", "(first.y, first.model_test)))", "(first.expected, first.model_y)))", f"{O}agreement.py {C}match.py"),
    Mutant("transient", "shift = 0.0 if opposed else", "shift =", f"{O}agreement.py"),
    Mutant("transient", "min(0.1 * lasts, dominant_period(test) / 4.0)", "0.1 * lasts", f"{O}agreement.py"),
    Mutant("agreement", "or not self.deviation.share <= 2 * self.deviation.limit", "", f"{O}agreement.py"),
    Mutant("scatter", "ends = np.full(len(runs), shortest)", "pass", f"{O}cycles.py"),
    Mutant("scatter", "    _start_alike(cut)\n", "", f"{O}cycles.py"),
    Mutant("arithmetic", "np.fmax.accumulate", "np.maximum.accumulate", f"{O}small_rules.py"),
    # What is drawn
    Mutant("distribution", "np.bincount(position, weights=areas[there], minlength=bins) / max(float(areas.sum()), 1e-300)", "np.bincount(position, minlength=bins) / len(areas)", f"{O}small_rules.py"),
    Mutant("rounding", "<= ROUNDING[precision]", "<= 0 * ROUNDING[precision]", f"{O}small_rules.py"),
    Mutant("sliced", "real * np.cos(angle) - imaginary", "real * np.cos(angle) + imaginary", f"{O}layers.py"),
    Mutant("sliced", "[:, at.layer, at.place]", "[:, at.layer, 0]", f"{O}layers.py"),
    Mutant("routes", "halves[0] + halves[1]", "2 * halves[0] * 0.9", f"{O}routes.py"),
    Mutant("borders", "element == wanted[point]", "element != wanted[point]", f"{O}profiles.py"),
    Mutant("levels", "/ factorial(dimension)", "/ dimension", f"{O}levels.py"),
    # Lines, cuts, gauges
    Mutant("ends", "line.distance[-1] - line.distance[back]", "line.distance[back]", f"{O}lines_made.py"),
    Mutant("profile", "% 360.0", "% 180.0", f"{O}lines_made.py"),
    Mutant("profile", "back = np.radians(-ends.before * degrees)", "back = np.radians(ends.before * degrees)", f"{O}lines_made.py"),
    Mutant("paths", "owners[beside] = on[beside]", "pass", f"{O}lines_made.py"),
    Mutant("outlines", "chosen = int(of[nearest])", "chosen = int(of[0])", f"{O}lines_made.py"),
    Mutant("geodesic", "if size > SHARP_EDGE:", "if False:", f"{O}lines_made.py"),
    Mutant("cut_faces", "kept = first[count == 1]", "kept = first", f"{O}cut_faces.py"),
    Mutant("cuts", "all_of_it = float(weighed", "all_of_it = float(volumes", f"{O}cut_faces.py"),
    Mutant("nearest", "distance[first[0]] = 0.0", "distance[first[0]] += 1e-3", f"{O}gauges.py"),
    Mutant("gauges", "[1, *[4, 2] * (ALONG // 2 - 1), 4, 1]", "[1] * ALONG", f"{O}gauges.py"),
    Mutant("gauges", "turned = float(np.degrees(np.arctan2(sine, cosine)) / 2.0)", "turned = float(np.degrees(np.arctan2(sine, cosine)))", f"{O}gauges.py"),
    # Strength
    Mutant("laminate", "(high**3 - low**3)).sum(0) / 3", "(high**3 - low**3)).sum(0) / 2", f"{O}strength.py"),
    Mutant("laminate", "- self.thickness / 2 - self.offset", "- self.thickness / 2 + self.offset", f"{O}strength.py"),
    Mutant("criteria", "-0.5 * float(np.sqrt(f11 * f22))", "0.5 * float(np.sqrt(f11 * f22))", f"{O}strength.py"),
    Mutant("criteria", 'm.get("S23", m["Yc"] / 2)', 'm["Yc"]', f"{O}strength.py"),
    Mutant("criteria", "real &= self.holds(", "self.holds(", f"{O}strength.py"),
    Mutant("criteria", "(b + np.sqrt(np.maximum(crosses, 0.0))) / 2", "(b + np.sqrt(np.maximum(crosses, 0.0)))", f"{O}plies.py"),
    Mutant("criteria", "np.where(b < 0, -a / b, -1.0)", "np.where(b > 0, -a / b, -1.0)", f"{O}plies.py"),
    Mutant("criteria", "np.hypot(shear[:, 0] / material[\"S23\"], shear[:, 1] / material[\"S13\"])", "np.hypot(shear[:, 0] / material[\"S13\"], shear[:, 1] / material[\"S23\"])", f"{O}plies.py"),
    Mutant("laminate", "[[grown[0][0], grown[1][2]], [grown[0][2], grown[1][1]]]", "[[grown[0][0], grown[1][1]], [grown[0][2], grown[1][2]]]", f"{O}plies.py"),
    Mutant("laminate", "turn = np.array([[-s, c], [c, s]])", "turn = np.array([[s, c], [c, -s]])", f"{O}plies.py"),
    Mutant("zones", "powers.get(n, 0)", "powers.get(n, 1)", f"{O}plies.py"),
    Mutant("field/plies", "own[:, [0, 1, 3]]", "own[:, [0, 1, 2]]", f"{O}plies.py"),
    Mutant("reading/plies", 'value = 1.0 / value', 'value = 1.0 - value', f"{O}plies.py"),
    Mutant("reading/plies", "table[:, :3] += residual", "table[:, :3] -= residual", f"{O}plies.py"),
    Mutant("coupons", "/ root)", ")", f"{O}coupons_and_parts.py"),
    Mutant("envelope", "rays[:, [first, second]] * outcome.reserve[:, None]", "rays[:, [first, second]] * outcome.index[:, None]", f"{O}coupons_and_parts.py"),
    Mutant("reversals", "beyond = driver[-1] > near", "beyond = False", f"{O}cycles.py"),
    # Axes from the model, a record at rest, arrows of sets, flags over the steps
    Mutant("fitted", "normal = rows[2] * np.sign(rows[2] @ mean)", "normal = rows[2] * -np.sign(rows[2] @ mean)", f"{O}fitted.py"),
    Mutant("fitted", "along), axis=1) - radius", "along), axis=1)", f"{O}fitted.py"),
    Mutant("fitted", "if off <= SLACK * size:", "if True:", f"{O}fitted.py"),
    Mutant("fitted", "(u @ u) * v - (v @ v) * u", "(u @ u) * v + (v @ v) * u", f"{O}fitted.py"),
    Mutant("rest", "<= AT_REST * reach", "<= 10 * AT_REST * reach", f"{C}rest.py"),
    Mutant("rest", "else len(driver), SAMPLES)", "else len(driver), 10 * SAMPLES)", f"{C}rest.py"),
    Mutant("set_arrows", "any(own < other", "any(own <= other", f"{C}set_arrows.py"),
    Mutant("set_arrows", "total = forces[nodes].sum(0)", "total = forces[nodes].mean(0)", f"{C}set_arrows.py"),
    Mutant("engine/axes", "kind = \"cartesian\" if found.shape == \"plane\" else \"cylindrical\"", "kind = \"cylindrical\"", "engine/test_flag_steps.py"),
    Mutant("flag_steps", "begin += len(at.names)", "begin += 1", "engine/test_flag_steps.py"),
    Mutant("flag_steps", 'reading if reading.span == "so-far" else', "reading if True else", "engine/test_flag_steps.py"),
    Mutant("engine/base", "return min(places", "return max(places", "engine/test_verdicts.py"),
    # Changes
    Mutant("store/items", "ChangeRow(id=last + 1, ", "ChangeRow(", "service/test_review.py"),
    Mutant("store/items", "if not (last.joined if back else", "if True or (last.joined if back else", "service/test_review.py"),
    Mutant("store/statements", "== result_id and payload != row.payload", "and payload != row.payload", "service/test_review.py"),
    Mutant("store/items", "stale.refuse_other(", "(lambda *_: None)(", "service/test_review.py"),
    # Shapes, borders, reserves and shares that were wrong once
    Mutant("levels", "if level == 0:", "if len(places) <= at_corners.shape[1]:", f"{O}matrix.py"),
    Mutant("levels", "some | (most >= value), every & (least >= value)", "some, every", f"{O}truths.py"),
    Mutant("cuts", "table.min(1) - off, table.max(1) + off", "table[:, 0], table[:, 0]", f"{O}truths.py"),
    Mutant("cuts", "(2 * np.pi * np.abs(at.mean(1)[:, 0]) if is_turned(source) else 1.0)", "1.0", f"{O}matrix.py"),
    Mutant("cuts", "abs(is_ - was) / is_ / 3 if is_ else 0.0", "0.0", f"{O}truths.py"),
    Mutant("volumes", "found[shells] = thickness[shells] if thickness is not None else", "found[shells] = 1.0 if thickness is not None else", f"{O}truths.py"),
    Mutant("volumes", "else 1.0 if mesh.planar else np.nan", "else 1.0", f"{O}truths.py"),
    Mutant("borders", "before[done])\n", "after[done])\n", f"{O}profiles.py {O}lines_made.py {O}truths.py"),
    Mutant("borders", "np.abs((off * self.ahead(share)).sum(1)) <= self.steep * away", "np.abs((off * self.ahead(share)).sum(1)) <= 9.0 * away", f"{O}truths.py"),
    Mutant("borders", "on & ~away[number]", "on", f"{O}truths.py"),
    Mutant("borders", "        found[known] = (one == before) & (two == after)\n", "", f"{O}truths.py {O}profiles.py {O}lines_made.py {O}matrix.py"),
    Mutant("locate", "np.column_stack([own, 1.0 - xi.sum(1)])", "np.column_stack([own, 1.0 - xi[:, :2].sum(1)])", f"{O}matrix.py"),
    Mutant("criteria", "np.where(self.holds(fixed) & (c > MET), 0.0, np.inf)", "np.full(len(scaled), np.inf)", f"{O}truths.py"),
    Mutant("criteria", "(factor > 0) & (factor < FAR)", "(factor < FAR)", f"{O}truths.py"),
    Mutant("engine/strength", "known = ~np.isnan(exposure)", "known = np.isfinite(exposure)", f"{O}truths.py"),
    Mutant("engine/strength", "value = before.value + share * (here.value - before.value)", "value = here.value", f"{O}truths.py"),
    Mutant("plies", "fixed = start[:, :3] + (0.0 if residual is None else residual)", "fixed = 0.0 * start[:, :3]", f"{O}truths.py"),
    Mutant("metals", "a = von_mises(step) ** 2 - rise**2", "a = von_mises(step) ** 2 * 0.5", f"{O}truths.py {O}coupons_and_parts.py"),
    Mutant("linearised", "6 / thick**2", "3 / thick**2", f"{O}truths.py {O}profiles.py"),
    Mutant("linearised", "against = None if reading.against is None else _component(reading.against, name)", "against = None", f"{O}truths.py"),
    Mutant("profiles", "along[first] + share[first] * (along[first + 1] - along[first])", "along[first]", f"{O}truths.py"),
    Mutant("curves", "weights[[0, -1]] = 0.5", "weights[0] = 0.0", f"{O}truths.py"),
    Mutant("arithmetic", "slope[turns] = (rise[turns]", "slope[turns] += 0 * (rise[turns]", f"{O}truths.py"),
    Mutant("gauss", "powers = powers[[tuple(p) in own for p in powers.tolist()]]", "pass", f"{O}truths.py"),
    Mutant("recover", "normals *= np.sign((a * normals[:, 0]).sum(1))[:, None, None] / 6.0", "normals *= 1.0 / 6.0", f"{O}truths.py"),
)  # fmt: skip


def found(mutant: Mutant) -> bool:
    """Whether a test fails on the mutant."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "src"
        shutil.copytree(ROOT / "src", copy, ignore=shutil.ignore_patterns("static", "__pycache__", "*.egg-info"))
        module = next((p for p in (copy / "ironstone").rglob(f"{mutant.module}.py") if mutant.right in p.read_text()), None)
        if module is None:
            raise SystemExit(f"{mutant.module}: '{mutant.right}' is not there any more: mend the table.")
        text = module.read_text()
        module.write_text(text.replace(mutant.right, mutant.wrong, 1))
        tests = [str(ROOT / "tests" / t) for t in mutant.tests.split()]
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests]
        ran = subprocess.run(
            command,
            env={**os.environ, "PYTHONPATH": str(copy), "HYPOTHESIS_STORAGE_DIRECTORY": folder},
            cwd=ROOT,
            capture_output=True,
            timeout=600,
        )
    return ran.returncode == 1


def main(words: list[str]) -> int:
    chosen = [m for m in MUTANTS if not words or any(w in m.module for w in words)]
    with ThreadPoolExecutor(os.cpu_count() or 2) as pool:
        answers = list(pool.map(found, chosen))
    for mutant, answer in zip(chosen, answers, strict=True):
        print(f"{'found   ' if answer else 'SURVIVED'}  {mutant.module:<14s} {' '.join(mutant.right.split())[:70]}")
    share = sum(answers) / len(answers)
    print(f"{sum(answers)} of {len(answers)} found ({100 * share:.0f} %; at least {100 * LEAST:.0f} % is meant)")
    return int(share < LEAST)


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
