"""The pressure drop sheet, also called the balance test: one burst an injector, who leans.

Conditions: engine off, the rail at a steady pressure, pump off, the same burst for each.  How the
drops are compared stands in ``compare.drops``.
"""

from typing import Final

KIND: Final = "pressure_drop"
