"""What is more frequent in one part of a corpus than in another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import log, sqrt

# Weight of the prior: a share of all that is counted, and no more than so much. Differences of rare names are drawn towards none.
SHARE, MOST = 0.1, 500.0
_NOTHING = 1e-9


@dataclass(frozen=True, kw_only=True)
class Difference:
    """A name, how often it stands in the one part and in the other, and by how many standard errors the logs of its odds
    differ; positive where it is more frequent in the one."""

    name: str
    one: int
    other: int
    z: float


def log_odds(one: Mapping[str, int], other: Mapping[str, int], prior: Mapping[str, int]) -> list[Difference]:
    """Every name that either part has, the most typical of the one first.

    Log-odds ratios with an informative Dirichlet prior, standardised: Monroe, Colaresi and Quinn (2008), "Fightin' Words",
    equations 16, 19 and 22. prior: counts in the whole corpus, in which every name of the parts stands.
    """
    whole = sum(prior.values())
    strength = min(SHARE * whole, MOST)
    n_one, n_other = sum(one.values()), sum(other.values())
    made = []
    for name in one.keys() | other.keys():
        weight = strength * prior[name] / whole
        y_one, y_other = one.get(name, 0), other.get(name, 0)
        rest_one, rest_other = n_one + strength - y_one - weight, n_other + strength - y_other - weight
        # Where there is nothing but this one name it is typical of neither.
        apart = min(rest_one, rest_other) > _NOTHING
        difference = log((y_one + weight) / rest_one) - log((y_other + weight) / rest_other) if apart else 0.0
        variance = 1 / (y_one + weight) + 1 / (y_other + weight)
        made.append(Difference(name=name, one=y_one, other=y_other, z=difference / sqrt(variance)))
    return sorted(made, key=lambda one: (-one.z, one.name))
