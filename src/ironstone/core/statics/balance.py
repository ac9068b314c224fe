"""Forces that must add up: resultants and the load balance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ironstone.core.errors import Impossible
from ironstone.core.field.fields import Field, Mirror, Source, displacement_of, stress_of
from ironstone.core.field.loadings import computed
from ironstone.core.field.recover import INTERNAL_FORCE
from ironstone.core.kept import kept_with
from ironstone.core.mesh.mesh import Float, Int
from ironstone.core.mesh.weld import TOLERANCE
from ironstone.core.reading.recovered import recovered_values
from ironstone.core.rounding import settle

AGREES, DOUBTFUL = 1e-3, 1e-2


@dataclass(frozen=True)
class Resultant:
    """Force (3,) and moment (3,) about a point, in the result's units of force and of force times length."""

    force: Float
    moment: Float

    def __add__(self, other: Resultant) -> Resultant:
        return Resultant(self.force + other.force, self.moment + other.moment)


def resultant(points: Float, forces: Float, about: Float, precision: str = "double") -> Resultant:
    """Sum of nodal forces (n, 3) at points (n, 3) and of their moments (x - p) x f; missing forces count as none.

    What is left of a sum is 0 where it is no more than rounding of all that was added.
    """
    known = np.nan_to_num(np.asarray(forces, dtype=np.float64))
    turning = np.cross(points - about, known)
    # Rounding of the places counts too: a moment is known no better than the forces times their farthest lever.
    lever = float(np.abs(points - about).max(initial=0.0))
    reach = float(np.abs(known).sum())
    turning_reach = max(reach * lever, float(np.abs(turning).sum()))
    return Resultant(settle(known.sum(0), reach, precision), settle(turning.sum(0), turning_reach, precision))


def round_axis(found: Resultant) -> Resultant:
    """The sum of nodal forces round the whole turn of an axisymmetric model (x the radius, y the axis): force along the axis and
    torque about it. Radial forces hold themselves."""
    along = np.array([0.0, 1.0, 0.0])
    return Resultant(found.force * along, found.moment * along)


def whole(points: Float, forces: Float, about: Float, half: Mirror | None, precision: str = "double") -> Resultant:
    """The resultant of a body; of a half and its mirror image together."""
    if half is None:
        return resultant(points, forces, about, precision)
    both = np.concatenate([points, half.image_of_points(points)])
    mirrored = np.concatenate([np.nan_to_num(forces), half.image_of_vectors(np.nan_to_num(forces))])
    return resultant(both, mirrored, about, precision)


# What a solver leaves over beside the forces it balanced: no digit of a table.
RESIDUE = 1e-7


def beside_each_other(sides: Sequence[Resultant], size: float) -> list[Resultant]:
    """Resultants that are told beside each other, about one point: components that are nothing beside the largest are 0, moments
    also those that are nothing beside the forces times the model's size."""
    force = RESIDUE * max((float(np.abs(np.nan_to_num(s.force)).max(initial=0.0)) for s in sides), default=0.0)
    moment = max((RESIDUE * float(np.abs(np.nan_to_num(s.moment)).max(initial=0.0)) for s in sides), default=0.0)
    moment = max(moment, force * size)

    def without(values: Float, nothing: float) -> Float:
        return np.where(np.abs(values) <= nothing, 0.0, values)

    return [Resultant(without(s.force, force), without(s.moment, moment)) for s in sides]


LOADS_NOT_KNOWN = "loads not known"


@dataclass(frozen=True)
class SetForces:
    """One set in the balance. held: 'held', 'partly', 'free' or 'unknown'."""

    name: str
    nodes: int
    held: str
    reaction: Resultant
    applied: Resultant


@dataclass(frozen=True)
class Balance:
    """Applied against reaction at a step. force_share, moment_share: the residual against all forces, and those times the size.

    applied, here and of the sets: NaN where the file holds no loads and no stress tells them.
    recovered: the reactions were worked out here from stress, with the largest force left at free nodes as their quality.
    loads_known: False where reactions do not hold themselves, the file has no loads, and no stress tells what they are.
    """

    step: int
    about: Float
    deformed: bool
    applied: Resultant
    reaction: Resultant
    residual: Resultant
    force_share: float
    moment_share: float
    sets: tuple[SetForces, ...]
    recovered: bool
    free_residual: float | None
    notes: tuple[str, ...]
    loads_known: bool = True

    @property
    def verdict(self) -> str:
        """'agrees' under 0.1 %, 'doubtful' under 1 %, else 'fails'; 'nothing to balance' where there is no force, 'loads not known'
        where a file has none and they are not zero."""
        if not self.loads_known:
            return LOADS_NOT_KNOWN
        worst = max(self.force_share, self.moment_share)
        if np.isnan(worst):
            return "nothing to balance"
        return "agrees" if worst < AGREES else "doubtful" if worst < DOUBTFUL else "fails"


def force_field(source: Source, kind: str) -> Field | None:
    """The nodal vector field of a kind ('reaction', 'force') that the file holds."""
    fields = source.fields.values()
    return next(
        (f for f in fields if f.kind == kind and f.rank == "vector" and f.location == "node" and f.stored and f.plain), None
    )


def applied_forces(source: Source, step: int) -> Float | None:
    """Applied forces (nodes, 3): nodal ones, and those that act on elements (each element's total), shared equally by its nodes.

    Equal shares have the force and the moment of the whole at the mean of the nodes. None where the file has neither.
    """
    found = None
    mesh = source.mesh
    for field in source.fields.values():
        if field.kind != "force" or field.rank != "vector" or not field.stored or not field.plain:
            continue
        if field.location not in ("node", "element"):
            continue
        values = np.nan_to_num(at_nodes(source, field.name, step))
        if field.location == "element":
            shares = values[mesh.corner_element] / np.diff(mesh.offsets)[mesh.corner_element][:, None]
            values = np.zeros_like(mesh.points)
            np.add.at(values, mesh.connectivity, shares)
        found = values if found is None else found + values
    return found


def balance(
    source: Source,
    step: int,
    sets: Mapping[str, Int],
    about: Float | None = None,
    deformed: bool = False,
    known: Mapping[str, str] | None = None,
) -> Balance:
    """The load balance of a step about a point (the middle of the model where None), over all nodes and set by set.

    deformed: moments are taken on the deformed shape. known: what is already known of sets being held. Without a reaction field
    reactions are recovered: internal less applied force.
    """
    if not 0 <= step < len(source.steps):
        raise Impossible(f"There is no step {step}.", f"Steps run from 0 to {len(source.steps) - 1}.")
    mesh = source.mesh
    given, loads = force_field(source, "reaction"), applied_forces(source, step)
    notes: list[str] = []
    applied = np.zeros_like(mesh.points) if loads is None else loads
    told = loads is not None
    if any(f.kind == "force" and f.location == "element" and f.rank == "vector" for f in source.fields.values()):
        notes.append("Forces on elements are taken as each element's total, shared by its nodes.")
    recovered = given is None
    free_residual, loads_known = None, True
    if given is not None:
        reaction = present(source, given, step)
        if loads is None:
            found_loads, loads_known, said = _loads_of_none(source, step, reaction)
            notes.append(said)
            if found_loads is not None:
                applied, told = found_loads, True
    else:
        if loads is None:
            notes.append("The file holds no applied forces: the reactions must balance by themselves.")
        found = recovered_reaction(source, step, applied)
        reaction, free_residual = found.forces, found.left
        notes.append("The file holds no reactions: recovered from stress, internal minus applied force at nodes that do not move.")
        if found.driven:
            notes.append(
                f"And at {found.driven} nodes that are moved alike and pushed from outside: driven, or under a load that is not "
                "in the file. Forces recovered at all of them add up by themselves; judge them by what is left at free nodes."
            )
    points = mesh.points
    moved = displacement_of(source.fields)
    if deformed:
        if moved is None:
            raise Impossible("This result has no displacement.", "Take the moments on the undeformed shape.")
        points = points + present(source, moved, step)
    half = source.setup.mirror
    centre = (mesh.points.min(0) + mesh.points.max(0)) / 2
    if half is not None:
        centre[half.axis] = half.at
        notes.append(f"The result is one half, mirrored at {half.words}: forces are those of the whole.")
    if about is not None:
        centre = np.asarray(about, dtype=np.float64)
    turned = source.setup.model == "axisymmetric"
    precision = next((f.precision for f in source.fields.values() if f.kind in ("reaction", "force") and f.stored), "double")
    if turned:
        notes.append("Axisymmetric: force along the axis and torque about it are balanced; radial forces hold themselves round it.")
        centre = centre * np.array([0.0, 1.0, 0.0])

    def summed(places: Float, forces: Float) -> Resultant:
        found = whole(places, forces, centre, half, precision)
        return round_axis(found) if turned else found

    untold = Resultant(np.full(3, np.nan), np.full(3, np.nan))
    acting, holding = summed(points, applied) if told else untold, summed(points, reaction)
    both = np.concatenate([points, points]), np.concatenate([applied, reaction])
    residual = summed(*both)
    total = float(np.linalg.norm(applied, axis=1).sum() + np.linalg.norm(reaction, axis=1).sum())
    total *= 1 if half is None else 2
    answer = tuple(
        SetForces(
            name,
            len(nodes),
            (known or {}).get(name) or held_state(source, nodes),
            summed(points[nodes], reaction[nodes]),
            summed(points[nodes], applied[nodes]) if told else untold,
        )
        for name, nodes in sets.items()
    )
    return Balance(
        step=step,
        about=centre,
        deformed=deformed,
        applied=acting,
        reaction=holding,
        residual=residual,
        force_share=float(np.linalg.norm(residual.force)) / total if total else float("nan"),
        moment_share=float(np.linalg.norm(residual.moment)) / (total * mesh.size) if total and mesh.size else float("nan"),
        sets=answer,
        recovered=recovered,
        free_residual=free_residual,
        notes=tuple(notes),
        loads_known=loads_known,
    )


def _loads_of_none(source: Source, step: int, reaction: Float) -> tuple[Float | None, bool, str]:
    """The loads of a file that holds reactions and none: forces at the nodes, None where nothing tells them; whether that is all
    there is to know; what to say.

    Reactions that hold themselves need none. Else what the stress leaves at nodes without a reaction acts there from outside.
    """
    total = float(np.linalg.norm(reaction, axis=1).sum())
    if float(np.linalg.norm(reaction.sum(axis=0))) <= DOUBTFUL * total:
        return None, True, "The file holds no applied forces: the reactions must balance by themselves."
    if stress_of(source.fields) is None:
        said = "The file holds no applied forces, and the reactions do not hold themselves: loads act that nobody has told."
        return None, False, said
    size = np.linalg.norm(reaction, axis=1)
    free = size <= 1e-6 * float(size.max(initial=0.0))
    inside = np.nan_to_num(recovered_values(source, INTERNAL_FORCE, step))
    loads = np.where(free[:, None], inside, 0.0)
    said = (
        "The file holds no applied forces: what acts at nodes without a reaction is recovered from stress, the loads and its noise."
    )
    return loads, True, said


def present(source: Source, field: Field, step: int) -> Float:
    """A nodal field at a step, what is missing at single nodes counted as 0. Raises Impossible where it has no value at all."""
    values = at_nodes(source, field.name, step)
    if len(values) and np.isnan(values).all():
        raise Impossible(f"'{field.name}' has no value at this step.", "Choose a step at which the file has it.")
    return np.nan_to_num(values)


def at_nodes(source: Source, name: str, step: int) -> Float:
    """A nodal field at a step, (nodes, components), in the file's unit."""
    return np.asarray(source.values(name, step), dtype=np.float64)


@dataclass(frozen=True, eq=False)
class RecoveredReaction:
    """forces: (nodes, 3). left: the largest at the other nodes, against the largest of all; None where nothing tells what moves.
    driven: how many nodes were taken for driven."""

    forces: Float
    left: float | None
    driven: int


# A group of nodes that move alike is driven where the force on it is this share of all forces found; a single node needs more.
DRIVEN, DRIVEN_ALONE = 0.02, 0.1


def recovered_reaction(source: Source, step: int, applied: Float) -> RecoveredReaction:
    """Internal less applied force at nodes that do not move, and at those that are driven.

    What the internal forces leave at a node acts on it from outside. A free node has nothing left but the discretisation's noise;
    nodes that move by the same amount in a direction, and are together pushed in it, are driven (common practice, no source).
    """
    if stress_of(source.fields) is None:
        raise Impossible("This result has neither reactions nor a stress to recover them from.", "State its fields in Intake.")
    outside = np.nan_to_num(recovered_values(source, INTERNAL_FORCE, step)) - applied
    moved = displacement_of(source.fields)
    if moved is None:
        return RecoveredReaction(outside, None, 0)
    shift = np.nan_to_num(at_nodes(source, moved.name, step))
    limit = TOLERANCE[moved.precision] * float(np.abs(shift).max(initial=0.0))
    still = np.abs(shift) <= limit
    all_of_them = float(np.abs(outside).sum()) / 2.0
    driven = np.zeros_like(still)
    for axis in range(3):
        free = np.flatnonzero(~still[:, axis])
        order = free[np.argsort(shift[free, axis], kind="stable")]
        breaks = np.flatnonzero(np.diff(shift[order, axis]) > 4.0 * limit) + 1
        for group in np.split(order, breaks):
            push = abs(float(outside[group, axis].sum()))
            if len(group) and push > (DRIVEN if len(group) > 1 else DRIVEN_ALONE) * all_of_them:
                driven[group, axis] = True
    taken = still | driven
    reach = float(np.abs(outside).max(initial=0.0))
    left = float(np.abs(outside[~taken]).max(initial=0.0)) / reach if reach else 0.0
    return RecoveredReaction(np.where(taken, outside, 0.0), left, int(driven.any(1).sum()))


def held_state(source: Source, nodes: Int) -> str:
    """Whether nodes are held: all, some ('partly') or none ('free') of them have a reaction at any step; 'unknown' without one."""
    field = force_field(source, "reaction")
    if field is None or not len(nodes):
        return "unknown"
    largest = largest_reactions(source, field.name)
    held = largest[nodes] > TOLERANCE[field.precision] * float(largest.max(initial=0.0))
    return "held" if held.all() else "partly" if held.any() else "free"


@kept_with(4)
def largest_reactions(source: Source, name: str) -> Float:
    """The largest component of a reaction field at each node over all steps of its mesh, (nodes,)."""
    best = np.zeros(len(source.mesh.points))
    for step in (s for s in computed(source.steps) if source.at(s) is source):
        best = np.maximum(best, np.abs(np.nan_to_num(source.values(name, step))).max(1))
    return best
