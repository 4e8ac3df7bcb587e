"""Every way in which a motor's leads can hang together, as resistances between lead and lead.

An explanation is a network of equal windings, sound or with one fault. What a meter can tell of it
is the matrix of resistances in multiples of one winding; explanations with the same matrix are one.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from itertools import combinations, product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Fault = Literal["", "open winding", "short between windings", "shorted turns"]
FAULTS: tuple[Fault, ...] = ("open winding", "short between windings", "shorted turns")
Edge = tuple[int, int, float]
Groups = tuple[tuple[int, ...], ...]
# A short, in multiples of a winding.
SHORT = 0.02
# What shorted turns may leave of a winding, and places along a winding where it may be bridged; how
# far the truth may lie between two of them, in multiples of a winding.
LEFT_OF_A_WINDING = (0.02, 0.15, 0.3, 0.45, 0.6, 0.75, 0.87)
PLACES = (0.25, 0.5, 0.75, 1.0)
BETWEEN_STEPS = 0.05
# How an unknown multiple and an open one are written among the outcomes.
UNKNOWN_MULTIPLE, OPEN = -2.0, -1.0
# Kinds whose coils have nothing in common.
ISOLATED_KINDS = ("two coils", "two tapped coils", "three windings", "four windings")

KIND_WORDS = {
    "two coils": "two-phase, 4 leads",
    "star with neutral": "three-phase star with its neutral",
    "common": "two-phase, 5 leads, one common",
    "two tapped coils": "two-phase, 6 leads, a tap in each coil",
    "taps joined": "two-phase, 6 leads, taps joined inside",
    "three windings": "three-phase, 6 leads, three windings",
    "four windings": "two-phase, 8 leads, four windings",
    "three-phase": "three-phase, 3 leads",
}


@dataclass(frozen=True)
class Network:
    """A kind of motor laid on numbered leads: its windings as edges, and a fault if there is one.

    `groups` are the coils: leads that belong together, a tap in the middle. `touching` are two of
    them that conduct to each other by an amount that is not known: bridged anywhere, by anything.
    `spread_ratio` is how far its multiples may be off: the fault may lie between two of them.
    """

    kind: str
    groups: Groups
    edges: tuple[Edge, ...]
    nodes: int
    fault: Fault = ""
    touching: Groups = ()
    spread_ratio: float = 0.0


def matchings(items: tuple[int, ...]) -> Iterator[tuple[tuple[int, int], ...]]:
    """Every way to pair items up: 3 for four, 15 for six, 105 for eight."""
    if not items:
        yield ()
        return
    first = items[0]
    for partner in items[1:]:
        left = tuple(item for item in items[1:] if item != partner)
        for others in matchings(left):
            yield ((first, partner), *others)


def _coils(kind: str, pairs: tuple[tuple[int, int], ...], count: int) -> Network:
    edges = tuple((a, b, 1.0) for a, b in pairs)
    return Network(kind=kind, groups=pairs, edges=edges, nodes=count)


def _star(kind: str, centre: int, others: tuple[int, ...], count: int) -> Network:
    edges = tuple((centre, end, 1.0) for end in others)
    return Network(
        kind=kind, groups=((*others[:1], centre, *others[1:]),), edges=edges, nodes=count
    )


def sound_networks(count: int) -> Iterator[Network]:
    """Every sound network on so many leads; none where no kind has that many."""
    leads = tuple(range(count))
    if count == 3:
        # A star; a delta measures the same between its three terminals.
        yield Network(
            kind="three-phase",
            groups=(leads,),
            edges=tuple((3, lead, 0.5) for lead in leads),
            nodes=4,
        )
    elif count == 4:
        yield from (_coils("two coils", pairs, 4) for pairs in matchings(leads))
        for centre in leads:
            others = tuple(lead for lead in leads if lead != centre)
            yield _star("star with neutral", centre, others, 4)
    elif count == 5:
        for centre in leads:
            yield _star("common", centre, tuple(x for x in leads if x != centre), 5)
    elif count == 6:
        yield from _six(leads)
    elif count == 8:
        yield from (_coils("four windings", pairs, 8) for pairs in matchings(leads))


def _six(leads: tuple[int, ...]) -> Iterator[Network]:
    for triple in combinations(leads[1:], 2):
        first = (leads[0], *triple)
        second = tuple(lead for lead in leads if lead not in first)
        for tap_1, tap_2 in product(first, second):
            coils = []
            edges: list[Edge] = []
            for tap, coil in ((tap_1, first), (tap_2, second)):
                ends = [lead for lead in coil if lead != tap]
                coils.append((ends[0], tap, ends[1]))
                edges += [(tap, end, 1.0) for end in ends]
            yield Network("two tapped coils", tuple(coils), tuple(edges), 6)
    for tap_1, tap_2 in combinations(leads, 2):
        outer = tuple(lead for lead in leads if lead not in (tap_1, tap_2))
        joined: tuple[Edge, ...] = ((tap_1, tap_2, SHORT), *((tap_1, end, 1.0) for end in outer))
        yield Network("taps joined", ((tap_1, tap_2), outer), joined, 6)
    yield from (_coils("three windings", pairs, 6) for pairs in matchings(leads))


def faulty_networks(sound: Network) -> Iterator[Network]:
    """A sound network with one fault: a winding broken, turns of one shorted, two in touch."""
    yield from _one_winding(sound)
    if sound.kind == "three-phase":
        # Three windings in a delta measure as a star between their terminals until one is faulty.
        delta: tuple[Edge, ...] = ((0, 1, 1.5), (1, 2, 1.5), (2, 0, 1.5))
        yield from _one_winding(replace(sound, edges=delta, nodes=3))
    if sound.kind in ISOLATED_KINDS:
        for one, other in combinations(sound.groups, 2):
            yield replace(sound, fault="short between windings", touching=(one, other))
            if len(sound.groups) < 4:
                for a, b in product(one, other):
                    edges = (*sound.edges, (a, b, SHORT))
                    yield replace(
                        sound, edges=edges, fault="short between windings", spread_ratio=SHORT
                    )
    else:
        yield from _bridged(sound)
    if sound.kind == "two tapped coils":
        for group in sound.groups:
            edges = (*sound.edges, (group[0], group[2], SHORT))
            yield replace(sound, edges=edges, fault="shorted turns", spread_ratio=SHORT)


def _one_winding(sound: Network) -> Iterator[Network]:
    """One winding broken, or with shorted turns."""
    for number, (a, b, ohms) in enumerate(sound.edges):
        if ohms == SHORT:
            continue
        others = (*sound.edges[:number], *sound.edges[number + 1 :])
        yield replace(sound, edges=others, fault="open winding")
        for left in LEFT_OF_A_WINDING:
            yield replace(
                sound,
                edges=(*others, (a, b, ohms * left)),
                fault="shorted turns",
                spread_ratio=BETWEEN_STEPS * ohms,
            )


def _bridged(sound: Network) -> Iterator[Network]:
    """Two windings that share an end, in touch somewhere along them: what is left of both, from the
    place on, and the way to the shared end is the shorter of the two there.
    """
    windings = [edge for edge in sound.edges if edge[2] != SHORT]
    for one, other in combinations(windings, 2):
        if one[0] != other[0]:
            continue
        others = tuple(edge for edge in sound.edges if edge not in (one, other))
        for at, at_other in product(PLACES, PLACES):
            centre, met = one[0], sound.nodes
            shared = one[2] * at * at_other / (at + at_other)
            edges: list[Edge] = [*others, (centre, met, shared)]
            for winding, place in ((one, at), (other, at_other)):
                edges.append((met, winding[1], max(SHORT, winding[2] * (1 - place))))
            yield replace(
                sound,
                edges=tuple(edges),
                nodes=sound.nodes + 1,
                fault="short between windings",
                spread_ratio=SHORT if at == at_other == 1.0 else BETWEEN_STEPS * one[2],
            )


def resistances(networks: list[Network], count: int) -> NDArray[np.float64]:
    """Resistance between every two leads in multiples of one winding; infinite where open, not a
    number where they conduct by an amount that is not known.

    Shape (networks, count, count). From the pseudo-inverse P of each Laplacian:
    r_ij = P_ii + P_jj - 2 P_ij within a connected part.
    """
    size = max(network.nodes for network in networks)
    laplacian = np.zeros((len(networks), size, size))
    for number, network in enumerate(networks):
        for a, b, ohms in network.edges:
            laplacian[number, a, a] += 1 / ohms
            laplacian[number, b, b] += 1 / ohms
            laplacian[number, a, b] -= 1 / ohms
            laplacian[number, b, a] -= 1 / ohms
    inverse = np.linalg.pinv(laplacian, rcond=1e-10, hermitian=True)
    diagonal = np.einsum("nii->ni", inverse)
    between = diagonal[:, :, None] + diagonal[:, None, :] - 2 * inverse
    reach = (np.abs(laplacian) > 0).astype(float) + np.eye(size)
    for _ in range(int(np.ceil(np.log2(size))) + 1):
        reach = (reach @ reach > 0).astype(float)
    between = np.where(reach > 0, between, np.inf)
    for number, network in enumerate(networks):
        if network.touching:
            one, other = (list(group) for group in network.touching)
            between[number][np.ix_(one, other)] = between[number][np.ix_(other, one)] = np.nan
    return np.asarray(np.round(between[:, :count, :count], 6), dtype=np.float64)


@dataclass(frozen=True)
class Catalogue:
    """The explanations of one number of leads that a meter can tell apart.

    `multiples` has shape (explanations, leads, leads); `spreads` how far they may be off;
    `weights` counts how many networks measure alike, relative to the others of the same kind and
    fault. `outcomes` has for each two leads the different (multiple, spread), and for each
    explanation which of them is its own.
    """

    networks: tuple[Network, ...]
    multiples: NDArray[np.float64]
    spreads: NDArray[np.float64]
    weights: NDArray[np.float64]
    outcomes: dict[tuple[int, int], tuple[NDArray[np.float64], NDArray[np.intp]]]


@cache
def catalogue(count: int) -> Catalogue:
    """The explanations of so many leads, each distinguishable one once."""
    sound = list(sound_networks(count))
    if not sound:
        none = np.zeros(0)
        return Catalogue((), np.zeros((0, count, count)), none, none, {})
    every = sound + [faulty for network in sound for faulty in faulty_networks(network)]
    matrices = resistances(every, count)
    kept: dict[bytes, int] = {}
    counts: list[int] = []
    chosen: list[int] = []
    for number, matrix in enumerate(matrices):
        key = matrix.tobytes() + every[number].fault.encode() + every[number].kind.encode()
        if key in kept:
            counts[kept[key]] += 1
            continue
        kept[key] = len(chosen)
        chosen.append(number)
        counts.append(1)
    networks = tuple(every[number] for number in chosen)
    totals: dict[tuple[str, Fault], int] = {}
    for network, alike in zip(networks, counts, strict=True):
        totals[network.kind, network.fault] = totals.get((network.kind, network.fault), 0) + alike
    weights = np.array(
        [alike / totals[n.kind, n.fault] for n, alike in zip(networks, counts, strict=True)]
    )
    spreads = np.array([network.spread_ratio for network in networks])
    multiples = matrices[chosen]
    outcomes = {
        (a, b): _different(multiples[:, a, b], spreads) for a, b in combinations(range(count), 2)
    }
    return Catalogue(networks, multiples, spreads, weights, outcomes)


def _different(
    multiple: NDArray[np.float64], spreads: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.intp]]:
    rows = np.stack([np.nan_to_num(multiple, nan=UNKNOWN_MULTIPLE, posinf=OPEN), spreads], axis=1)
    found, place = np.unique(rows, axis=0, return_inverse=True)
    return found, np.asarray(place, dtype=np.intp).reshape(-1)
