"""Shares and uncertainties against general libraries: pyAgrum (exact inference) and GTC (GUM)."""

import itertools
import math
from dataclasses import dataclass

import GTC
import numpy as np
import pyagrum as gum
import pytest

from plumb.core.causes.fault import ENGINE, INJECTOR, Fault
from plumb.core.causes.shows import Shows
from plumb.core.compare.bursts import BurstSet, Injected
from plumb.core.compare.flow import flow_of
from plumb.core.compare.flow_rule import judge_by_flow
from plumb.core.diagnose.case import Case, Seen, Shared
from plumb.core.diagnose.sets import weigh_exactly
from plumb.core.measure.quantities import KPA_PER

PSI = KPA_PER["psi"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn(Case):
    """A case of drawn faults and tables in place of those of the trade."""

    of_place: tuple[Fault, ...] = ()
    of_engine: tuple[Shared, ...] = ()
    saw: tuple[Seen, ...] = ()

    def states(self) -> tuple[Fault, ...]:
        """The drawn faults of a place."""
        return self.of_place

    def shared(self) -> tuple[Shared, ...]:
        """The drawn faults of the engine."""
        return self.of_engine

    def seen(self) -> tuple[Seen, ...]:
        """What was drawn to be seen."""
        return self.saw


def _row(rng: np.random.Generator, columns: int) -> tuple[float, ...]:
    row = rng.dirichlet(np.ones(columns))
    return tuple(float(x) for x in row)


def drawn(seed: int) -> Drawn:
    """Up to twelve faults: states of two or three places, and up to three of the engine."""
    rng = np.random.default_rng(seed)
    places = tuple(str(k) for k in range(int(rng.integers(2, 4))))
    of_place = tuple(
        Fault(code=f"p{n}", of=INJECTOR, words="", common={"port": float(rng.uniform(0.02, 0.3))})
        for n in range(int(rng.integers(1, 4)))
    )
    of_engine = tuple(
        Shared(
            fault=Fault(code=f"e{n}", of=ENGINE, words="", common={"port": float(rng.uniform(0.02, 0.4))}),
            places=None if n else frozenset(places[:2]),
        )
        for n in range(int(rng.integers(1, 4)))
    )  # fmt: skip
    codes = [f.code for f in of_place] + [s.fault.code for s in of_engine]
    saw = []
    for t in range(int(rng.integers(2, 6))):
        columns = int(rng.integers(2, 4))
        rows = {c: _row(rng, columns) for c in codes if rng.random() < 0.7}
        table = Shows(
            name=f"t{t}", columns=tuple(f"t{t}c{c}" for c in range(columns)),
            sound=_row(rng, columns), rows=rows,
        )  # fmt: skip
        for place in [""] if rng.random() < 0.5 else places:
            certain = np.eye(columns)[int(rng.integers(columns))]
            weights = certain if rng.random() < 0.7 else rng.dirichlet(np.ones(columns))
            saw.append(Seen(table=table, place=place, weights=tuple(float(w) for w in weights)))
    return Drawn(
        fuel_system="port", injectors=places, of_place=of_place, of_engine=of_engine, saw=tuple(saw)
    )


def network(case: Drawn) -> tuple[gum.BayesNet, dict[str, list[float]]]:
    """The same as a Bayesian network, and what was seen as evidence on its leaves."""
    net, evidence = gum.BayesNet(), dict[str, list[float]]()
    states = [""] + [f.code for f in case.of_place]
    chances = [f.common["port"] for f in case.of_place]
    for place in case.injectors:
        net.add(gum.LabelizedVariable(f"at{place}", "", states[:1] and [s or "no" for s in states]))
        net.cpt(f"at{place}")[:] = [1.0 - sum(chances), *chances]
    for shared in case.of_engine:
        code = shared.fault.code
        net.add(gum.LabelizedVariable(code, "", 2))
        p = shared.fault.common["port"]
        net.cpt(code)[:] = [1.0 - p, p]
    for n, seen in enumerate(case.saw):
        leaf = f"s{n}"
        net.add(gum.LabelizedVariable(leaf, "", len(seen.weights)))
        at = [seen.place] if seen.place else list(case.injectors)
        reach = [
            s for s in case.of_engine
            if not seen.place or s.places is None or seen.place in s.places
        ]  # fmt: skip
        for parent in (*(f"at{p}" for p in at), *(s.fault.code for s in reach)):
            net.addArc(parent, leaf)
        options = [range(len(states))] * len(at) + [range(2)] * len(reach)
        for combo in itertools.product(*options):
            there = [states[c] for c in combo[: len(at)] if c]
            there += [s.fault.code for s, on in zip(reach, combo[len(at) :], strict=True) if on]
            where = {f"at{p}": c for p, c in zip(at, combo, strict=False)}
            where |= {s.fault.code: on for s, on in zip(reach, combo[len(at) :], strict=True)}
            net.cpt(leaf)[where] = [seen.table.chance(there, c) for c in range(len(seen.weights))]
        evidence[leaf] = list(seen.weights)
    return net, evidence


@pytest.mark.parametrize("seed", range(40))
def test_shares_are_those_of_exact_inference(seed: int) -> None:
    """Every share of every fault, against pyAgrum's lazy propagation, to 1e-9."""
    case = drawn(seed)
    net, evidence = network(case)
    exact = gum.LazyPropagation(net)
    exact.setEvidence(evidence)
    exact.makeInference()
    found = weigh_exactly(case)
    for k, place in enumerate(case.injectors):
        assert found.places[k] == pytest.approx(exact.posterior(f"at{place}").tolist(), abs=1e-9)
    for shared in case.of_engine:
        wanted = exact.posterior(shared.fault.code).tolist()[1]
        assert found.share_of(shared) == pytest.approx(wanted, abs=1e-9)


def test_three_causes_of_one_symptom() -> None:
    """Noisy-OR: chances .1 .05 .2 that bring it about with .9 .5 .2, leak .01.

    By plain enumeration of the eight sets: .578815 .181034 .379309 once the symptom is there.
    """
    chances, often, leak = (0.1, 0.05, 0.2), (0.9, 0.5, 0.2), 0.01
    faults = [Fault(code=c, of=ENGINE, words="", common={"port": p})
              for c, p in zip("abc", chances, strict=True)]  # fmt: skip
    table = Shows(
        name="symptom", columns=("", "symptom"), sound=(1 - leak, leak),
        rows={c: (1 - q, q) for c, q in zip("abc", often, strict=True)},
    )  # fmt: skip
    shared = tuple(Shared(fault=f) for f in faults)
    case = Drawn(
        fuel_system="port", injectors=(), of_engine=shared,
        saw=(Seen(table=table, place="", weights=(0.0, 1.0)),),
    )  # fmt: skip
    total, each = 0.0, [0.0, 0.0, 0.0]
    for combo in itertools.product((0, 1), repeat=3):
        p = math.prod(c if on else 1 - c for c, on in zip(chances, combo, strict=True))
        p *= 1 - (1 - leak) * math.prod(1 - q for q, on in zip(often, combo, strict=True) if on)
        total += p
        each = [e + p * on for e, on in zip(each, combo, strict=True)]
    found = [weigh_exactly(case).share_of(s) for s in shared]
    assert found == pytest.approx([e / total for e in each], abs=1e-12)
    assert found == pytest.approx([0.578815, 0.181034, 0.379309], abs=5e-7)


@pytest.mark.parametrize("seed", range(200))
def test_the_uncertainty_of_a_deviation_is_that_of_gtc(seed: int) -> None:
    """u(d) of every injector of a drawn set, with GTC's uncertain numbers (JCGM 100:2008, 5).

    Both readings of a burst have the gauge's step as a rectangular distribution, and bursts repeat to
    the set's own scatter; d is the difference from the mean of those that agree, as a share of it.
    """
    rng = np.random.default_rng(seed)
    step = float(rng.choice((0.1, 0.5, 1.0))) * PSI
    count = int(rng.integers(3, 9))
    rows = []
    for k in range(count):
        first = round(float(rng.normal(50.0, 0.8)) * PSI / step) * step
        second = (
            round(float(rng.normal(26.0 - 6.0 * (rng.random() < 0.2), 0.4)) * PSI / step) * step
        )
        rows.append(Injected(str(k), (flow_of(first, second, step),)))
    judged = judge_by_flow(BurstSet(injected=tuple(rows), step=step), 0.10)
    if judged.reference is None:
        pytest.fail("a set that answers has a reference")
    scatter, u_step = judged.repeatability.relative, step / math.sqrt(12.0)
    flows = {}
    for row in rows:
        one = row.flows[0]
        burst = GTC.ureal(1.0, scatter)
        a, b = GTC.ureal(one.first, u_step), GTC.ureal(one.second, u_step)
        flows[row.label] = burst * (GTC.sqrt(a) - GTC.sqrt(b))
    mean = sum((flows[x] for x in judged.agreeing), GTC.constant(0.0)) / len(judged.agreeing)
    for view in judged.views:
        d = (flows[view.injector] - mean) / judged.reference
        if view.agrees and len(judged.agreeing) == 1:
            continue
        assert view.deviation == pytest.approx(GTC.value(d), abs=1e-12)
        assert view.u == pytest.approx(GTC.uncertainty(d), rel=1e-9)
