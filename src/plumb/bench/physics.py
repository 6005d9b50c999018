"""The equations of a rail, a coil and a nozzle, each alone: what the virtual engine is built from.

Pressures are kPa above the atmosphere, volumes ml, times s, temperatures °C.  The closed forms
solve the same equations that :mod:`plumb.bench.virtual` integrates, so that one checks the other.

>>> k = orifice_coefficient(diameter_mm=0.2, discharge=0.7)
>>> round(through(k, 300.0), 2)
0.62
>>> round(bled(345.0, seconds=60.0, k=0.001, compliance=0.012), 1)
258.4
"""

import math
from typing import Final

import numpy as np

PETROL_KG_M3: Final = 745.0
"""Density of petrol at 15 °C: EN 228 allows 720 to 775."""
DIESEL_KG_M3: Final = 835.0
"""Density of diesel at 15 °C: EN 590 allows 820 to 845."""
COPPER_PER_K: Final = 0.00393
"""Temperature coefficient of annealed copper at 20 °C: IEC 60028."""
INRUSH_A: Final = 380.0
INRUSH_S: Final = 0.05
PETROL_SWELLS_PER_K: Final = 0.00095
"""Cubic expansion of petrol; handbook value, from memory."""


def orifice_coefficient(
    *, diameter_mm: float, discharge: float, density: float = PETROL_KG_M3
) -> float:
    """K of Q = k √p for a sharp hole, ml/s per √kPa.

    Q = Cd · A · √(2 Δp / ρ) (Torricelli with a discharge coefficient, as in ISO 5167-1, β → 0).
    """
    area_m2 = math.pi / 4.0 * (diameter_mm / 1000.0) ** 2
    # m³/s per √Pa; √1000 of a kPa, and 10⁶ ml in a m³.
    return discharge * area_m2 * math.sqrt(2.0 / density) * math.sqrt(1000.0) * 1e6


def through(k: float, pressure: float) -> float:
    """ml/s through an orifice of coefficient ``k``; nothing is sucked back."""
    return k * math.sqrt(pressure) if pressure > 0.0 else 0.0


def fallen(start: float, *, by: float, bend: float = 0.0) -> float:
    """Where ``start`` ends up when its power bend + ½ falls ``by``; an empty rail stays empty.

    With bend 0 the root of the pressure falls in a straight line.
    """
    power = bend + 0.5
    return float(max(0.0, start**power - by) ** (1.0 / power))


def bled(start: float, *, seconds: float, k: float, compliance: float, bend: float = 0.0) -> float:
    """What is left of ``start`` when a shut rail loses through an orifice.

    C(p) dp/dt = −k √p with C = compliance · (p / start)^bend:
    p^(bend + ½) falls in a straight line; with bend 0 that is √p = √p₀ − k t / 2C.
    """
    by = (bend + 0.5) * k * seconds / compliance * start**bend
    return fallen(start, by=by, bend=bend)


def seeped(start: float, *, seconds: float, resistance: float, compliance: float) -> float:
    """What is left of ``start`` through a narrow gap: p = p₀ exp(−t / RC), R in kPa s/ml.

    Laminar flow through a gap goes with p (Hagen and Poiseuille), and a compliance that empties
    through a resistance is the RC circuit.
    """
    return start * math.exp(-seconds / (resistance * compliance))


def soaked(
    *, seconds: float, rise_c: float, after_s: float, volume: float, compliance: float
) -> float:
    """How far a shut rail rises as the engine's heat reaches it: V β ΔT (1 − exp(−t/τ)) / C."""
    swollen = volume * PETROL_SWELLS_PER_K * rise_c * (1.0 - math.exp(-seconds / after_s))
    return swollen / compliance


def copper(ohm_20: float, celsius: float) -> float:
    """Resistance of a coil of copper at a temperature: R₂₀ (1 + α (T − 20))."""
    return ohm_20 * (1.0 + COPPER_PER_K * (celsius - 20.0))


def opened_for(pulses: int, width_s: float, dead_s: float) -> float:
    """How long an injector is open in a burst: each pulse less what the needle takes to lift."""
    return pulses * max(0.0, width_s - dead_s)


def compression_hump(angle: np.ndarray) -> np.ndarray:
    """What one compression adds to the starter's current, 0 to 1, over its share of the cycle."""
    hump: np.ndarray = np.sin(np.pi * (angle % 1.0)) ** 2
    return hump


def inrush(seconds: np.ndarray) -> np.ndarray:
    """What a starter draws beyond that while it is still standing, A."""
    more: np.ndarray = INRUSH_A * np.exp(-seconds / INRUSH_S)
    return more
