"""Curves made of curves: a small language of ordinary mathematics, with units carried and checked."""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from ironstone.core.curves.curves import moving_mean
from ironstone.core.errors import IronstoneError
from ironstone.core.mesh.mesh import Float
from ironstone.core.units import difference_unit, registry

LONGEST = 400
MOST_PLACES = 1_000_000
Named = tuple[Float, str | None]
_OPERATORS: dict[type[ast.operator], Callable[[Any, Any], Any]] = {
    ast.Add: lambda a, b: a + b,
    ast.Sub: lambda a, b: a - b,
    ast.Mult: lambda a, b: a * b,
    ast.Div: lambda a, b: a / b,
    ast.Pow: lambda a, b: a**b,
}


def _derivative(y: Any, x: Any) -> Any:
    """dy/dx by second-order differences, also on uneven steps (numpy.gradient); where x turns round, that of the way there, as the
    two ways have slopes of their own; none where x stands still."""
    run, rise = np.asarray(x.magnitude, dtype=float), np.asarray(y.magnitude, dtype=float)
    if len(run) < 2:
        raise IronstoneError("A derivative takes two steps or more.")
    with np.errstate(invalid="ignore", divide="ignore"):
        slope = np.gradient(rise, run, edge_order=1)
        turns = 1 + np.flatnonzero(np.diff(run)[:-1] * np.diff(run)[1:] < 0)
        slope[turns] = (rise[turns] - rise[turns - 1]) / (run[turns] - run[turns - 1])
    slope[~np.isfinite(slope)] = np.nan
    return registry().Quantity(slope, _step_unit(y) / _step_unit(x))


def _step_unit(value: Any) -> Any:
    """The unit of a difference of two such values: of a temperature in degC a kelvin."""
    return registry().Unit(difference_unit(f"{value.units:~}")) if not value._is_multiplicative else value.units


def _absolute(value: Any) -> Any:
    """A temperature on a scale with a zero of its own in kelvin, so that it can be multiplied; all else as it is."""
    return value if value._is_multiplicative else value.to_base_units()


def _integral(y: Any, x: Any) -> Any:
    """The integral of y dx (trapezoid) from the first step at which both have a value; none after a gap, which nobody can fill."""
    from scipy.integrate import cumulative_trapezoid

    y, x = _absolute(y), _absolute(x)
    rise, run = (np.asarray(v.magnitude, dtype=float) for v in (y, x))
    there = np.isfinite(rise) & np.isfinite(run)
    result = np.full(len(rise), np.nan)
    if there.any():
        first = int(np.argmax(there))
        gaps = np.flatnonzero(~there[first:])
        last = first + int(gaps[0]) if len(gaps) else len(rise)
        result[first:last] = cumulative_trapezoid(rise[first:last], run[first:last], initial=0.0) if last - first > 1 else 0.0
    return registry().Quantity(result, y.units * x.units)


def _smooth(y: Any, samples: Any) -> Any:
    """The moving mean over so many steps, ends held."""
    count = int(_pure(samples))
    if count < 1 or count > len(y.magnitude):
        raise IronstoneError(f"A mean over {count} steps cannot be taken.", f"Smooth over 1 to {len(y.magnitude)} steps.")
    return registry().Quantity(moving_mean(y.magnitude, count), y.units)


def _resample(y: Any, x: Any, count: Any) -> Any:
    """y as so many evenly spaced places of x know it, straight between them: what fewer steps would have shown."""
    run, rise, places = np.asarray(x.magnitude, dtype=float), np.asarray(y.magnitude, dtype=float), int(_pure(count))
    if places < 2:
        raise IronstoneError("A curve takes two places or more.", "Resample to 2 or more.")
    if places > MOST_PLACES:
        raise IronstoneError(f"A curve is not resampled to {places} places.", f"Resample to at most {MOST_PLACES}.")
    _rising(run, "resampled over")
    at = np.linspace(run[0], run[-1], places)
    return registry().Quantity(np.interp(run, at, np.interp(at, run, rise)), y.units)


def _trim(y: Any, x: Any, first: Any, last: Any) -> Any:
    """y where x lies between two values, nothing outside."""
    low, high = (_in_units_of(v, x) for v in (first, last))
    inside = (x.magnitude >= min(low, high)) & (x.magnitude <= max(low, high))
    if not inside.any():
        raise IronstoneError(
            "Nothing is left between those two values.", f"It runs from {x.magnitude.min():.4g} to {x.magnitude.max():.4g}."
        )
    return registry().Quantity(np.where(inside, y.magnitude, np.nan), y.units)


def _shift(y: Any, x: Any, by: Any) -> Any:
    """y moved along x by a distance: what it was that much earlier; nothing where it was not yet."""
    run = np.asarray(x.magnitude, dtype=float)
    _rising(run, "shifted along")
    return registry().Quantity(np.interp(run - _in_units_of(by, x), run, y.magnitude, left=np.nan, right=np.nan), y.units)


def _rising(run: Float, word: str) -> None:
    if len(run) < 2 or not (np.diff(run) > 0).all():
        raise IronstoneError(f"A curve is {word} what always grows, like step.", "Use step, or a curve that only rises.")


def _in_units_of(value: Any, like: Any) -> float:
    """A number is taken in the unit of what it is compared with."""
    return float(value) if isinstance(value, (int, float)) else float(value.to(like.units).magnitude)


def _from_first(y: Any) -> Any:
    """The change since the first step."""
    return y - y[0]


def _pure(value: Any) -> float:
    if isinstance(value, (int, float)):
        return float(value)
    return float(value.to("dimensionless").magnitude)


def _of_pure(function: Callable[[Any], Any]) -> Callable[[Any], Any]:
    def applied(value: Any) -> Any:
        return registry().Quantity(function(registry().Quantity(value).to("dimensionless").magnitude), "dimensionless")

    return applied


FUNCTIONS: dict[str, tuple[int, Callable[..., Any], str]] = {
    "abs": (1, lambda a: abs(a), "size without sign"),
    "sqrt": (1, lambda a: a**0.5, "square root"),
    "exp": (1, _of_pure(np.exp), "of a pure number"),
    "log": (1, _of_pure(np.log), "natural, of a pure number"),
    "sin": (1, lambda a: np.sin(a), "of an angle"),
    "cos": (1, lambda a: np.cos(a), "of an angle"),
    "d": (2, _derivative, "d(y, x): the derivative of y by x"),
    "integral": (2, _integral, "integral(y, x): of y dx from the first step"),
    "smooth": (2, _smooth, "smooth(y, n): the mean over n steps"),
    "resample": (3, _resample, "resample(y, x, n): through n even places of x"),
    "trim": (4, _trim, "trim(y, x, a, b): where x is between a and b"),
    "shift": (3, _shift, "shift(y, x, s): moved along x by s"),
    "change": (1, _from_first, "change(y): since the first step"),
    "largest": (1, lambda a: registry().Quantity(np.fmax.accumulate(a.magnitude), a.units), "largest(y): so far"),
}


# Which arguments of a function are curves, and cannot be single numbers.
_CURVES = {
    "d": (0, 1),
    "integral": (0, 1),
    "smooth": (0,),
    "resample": (0, 1),
    "trim": (0, 1),
    "shift": (0, 1),
    "change": (0,),
    "largest": (0,),
}


def evaluate_curve(text: str, known: Mapping[str, Named]) -> tuple[Float, str]:
    """Values and unit of an expression over curves of one length, by name. Raises IronstoneError that says what is wrong, and why.

    Units are carried through pint: kN + N is turned, kN + mm is refused. Nothing but the operators + - * / ** and the functions of
    ``FUNCTIONS`` is understood.
    """
    import pint

    if len(text) > LONGEST:
        raise IronstoneError(f"That expression is longer than {LONGEST} characters.", "Name parts of it as curves of their own.")
    try:
        tree = ast.parse(text.strip(), mode="eval")
    except SyntaxError as error:
        where = f"something is wrong at character {error.offset}"
        raise IronstoneError(f"'{text}' is no expression: {where}.", "Write it like 2*F/u.") from error
    try:
        # What has no value at a step, like the logarithm of zero, has none there; it is no fault of the rest.
        with np.errstate(all="ignore"):
            result = _value(tree.body, known)
        if isinstance(result, (int, float)):
            result = registry().Quantity(float(result), "dimensionless")
        values = np.asarray(result.magnitude, dtype=np.float64)
    except pint.DimensionalityError as error:
        raise IronstoneError(
            f"{_unit(error.units1)} and {_unit(error.units2)} do not go together in '{text}'.", "Add and compare like with like."
        ) from error
    except (pint.OffsetUnitCalculusError, OverflowError, ZeroDivisionError, ValueError, TypeError) as error:
        raise IronstoneError(f"'{text}' cannot be worked out: {error}.", "Check what stands in it.") from error
    count = max((len(v) for v, _ in known.values()), default=1)
    if values.ndim == 0:
        values = np.full(count, float(values))
    return values, _unit(result.units)


def _real(value: Any) -> Any:
    if np.iscomplexobj(getattr(value, "magnitude", value)):
        raise IronstoneError("A root of a negative number is no real value.", "Check the expression, or take its size: abs(...).")
    return value


def names_in(text: str) -> set[str]:
    """Names of curves an expression uses."""
    try:
        tree = ast.parse(text.strip(), mode="eval")
    except SyntaxError:
        return set()
    called = {id(n.func) for n in ast.walk(tree) if isinstance(n, ast.Call)}
    return {n.id for n in ast.walk(tree) if isinstance(n, ast.Name) and id(n) not in called}


def _unit(unit: Any) -> str:
    text = f"{registry().Unit(unit):~P}"
    return text.replace("dimensionless", "")


def _value(node: ast.AST, known: Mapping[str, Named]) -> Any:
    if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)) and not isinstance(node.value, bool):
        # Whole numbers grow without end where floating ones stop.
        return float(node.value)
    if isinstance(node, ast.Name):
        if node.id == "pi":
            return float(np.pi)
        if node.id not in known:
            raise IronstoneError(f"There is no curve named '{node.id}'.", f"Curves here: {', '.join(known) or 'none'}.")
        values, unit = known[node.id]
        if unit is None:
            raise IronstoneError(f"The unit of '{node.id}' is not stated.", "State it first.")
        return registry().Quantity(np.asarray(values, dtype=np.float64), unit or "dimensionless")
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd)):
        inner = _value(node.operand, known)
        return -inner if isinstance(node.op, ast.USub) else inner
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        left, right = _value(node.left, known), _value(node.right, known)
        if isinstance(node.op, ast.Pow):
            right = _pure(right)
            if abs(right) > 20:
                raise IronstoneError("A power above 20 is not taken.", "Check the expression.")
        return _real(_OPERATORS[type(node.op)](left, right))
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and not node.keywords:
        if node.func.id not in FUNCTIONS:
            raise IronstoneError(f"There is no function '{node.func.id}'.", f"Functions: {', '.join(FUNCTIONS)}.")
        count, function, answer = FUNCTIONS[node.func.id]
        if len(node.args) != count:
            raise IronstoneError(f"'{node.func.id}' takes {count} {'value' if count == 1 else 'values'}.", answer)
        arguments = [_value(a, known) for a in node.args]
        for place in _CURVES.get(node.func.id, ()):
            if not np.ndim(getattr(arguments[place], "magnitude", 0.0)):
                raise IronstoneError(f"'{node.func.id}' is taken of a curve, not of one number.", answer)
        return _real(function(*arguments))
    said = "Only names of curves, numbers, + - * / ** and functions are understood."
    raise IronstoneError(said, f"Functions: {', '.join(FUNCTIONS)}.")
