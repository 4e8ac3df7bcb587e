"""Every way in which a motor's leads can hang together, as resistances between lead and lead.

An explanation is a network of equal windings. What a meter can tell of it is the matrix of
resistances in multiples of one winding; explanations with the same matrix are one.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from itertools import combinations, product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Fault = Literal["", "open winding", "short between windings"]
Edge = tuple[int, int, float]
# A short, in multiples of a winding.
SHORT = 0.02

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

    `groups` are the coils: leads that belong together, a tap in the middle.
    """

    kind: str
    groups: tuple[tuple[int, ...], ...]
    edges: tuple[Edge, ...]
    nodes: int
    fault: Fault = ""


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
    """A sound network with one winding broken, or with two of its coils in touch."""
    for broken in sound.edges:
        left = tuple(edge for edge in sound.edges if edge is not broken)
        yield Network(sound.kind, sound.groups, left, sound.nodes, "open winding")
    if sound.kind in ("two coils", "three windings", "four windings", "two tapped coils"):
        for one, other in combinations(sound.groups, 2):
            for a, b in product(one, other):
                edges = (*sound.edges, (a, b, SHORT))
                yield Network(
                    sound.kind, sound.groups, edges, sound.nodes, "short between windings"
                )


def resistances(networks: list[Network], count: int) -> NDArray[np.float64]:
    """Resistance between every two leads in multiples of one winding, infinite where open.

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
    return np.asarray(np.round(between[:, :count, :count], 6), dtype=np.float64)


@dataclass(frozen=True)
class Catalogue:
    """The explanations of one number of leads that a meter can tell apart.

    `multiples` has shape (explanations, leads, leads); `weights` counts how many networks measure
    alike, relative to the others of the same kind and fault.
    """

    networks: tuple[Network, ...]
    multiples: NDArray[np.float64]
    weights: NDArray[np.float64]


@cache
def catalogue(count: int) -> Catalogue:
    """The explanations of so many leads, each distinguishable one once."""
    sound = list(sound_networks(count))
    if not sound:
        empty = np.zeros((0, count, count))
        return Catalogue(networks=(), multiples=empty, weights=np.zeros(0))
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
    return Catalogue(networks=networks, multiples=matrices[chosen], weights=weights)
