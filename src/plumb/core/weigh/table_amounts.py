"""The rows of the verdict that speak of what an injector gives, and how it sprays."""

from typing import Final

from plumb.core.weigh.row import VerdictRow
from plumb.core.weigh.row import needs as _facts

AMOUNTS: Final = (
    VerdictRow(
        name="opens weakly, still after cleaning",
        needs=_facts("fires_late", "after_cleaning"),
        condition="opens_weakly", action="replace",
        because="it still opens only once the pressure has bled down, and cleaning did not free it",
        not_ruled_out=("tester_supply", "coil", "command"),
    ),
    VerdictRow(
        name="opens weakly",
        needs=_facts("fires_late"),
        condition="opens_weakly", action="clean_and_repeat",
        because="it opens only once the pressure has bled down: sticking, or a weak coil",
        not_ruled_out=("tester_supply", "coil", "command"),
    ),
    VerdictRow(
        name="woke up",
        needs=_facts("answered_late"), unless=frozenset({"two_passes"}),
        condition="opens_weakly", action="repeat",
        because="it was silent before it answered: exercised free, perhaps; repeat it",
        not_ruled_out=("tester_supply", "coil"),
    ),
    VerdictRow(
        name="weak together with all it shares a feed with",
        needs=_facts("feed_weak"), unless=frozenset({"command_good"}),
        condition="gives_less", action="check_first",
        because="all on this feed give less: what they share comes first, though partners also "
        "wear together",
        not_ruled_out=("shared_feed", "command", "coil"),
    ),
    VerdictRow(
        name="gives less, coil out of its window",
        needs=_facts("coil_out volts_out", "drop_low running_low bench_low"),
        condition="coil_out_of_window", action="replace",
        because="its coil is out of its window and it gives less",
        not_ruled_out=("command",),
    ),
    VerdictRow(
        name="gives less, still after cleaning",
        needs=_facts("drop_low bench_low", "after_cleaning"),
        condition="gives_less", action="replace",
        because="gives less than the injectors that agree, and cleaning did not change it",
        alone="gives less than is expected of it, and cleaning did not change it",
        not_ruled_out=("coil", "command"),
    ),
    VerdictRow(
        name="gives less",
        needs=_facts("drop_low bench_low"),
        condition="gives_less", action="clean_and_repeat",
        because="gives less than the injectors that agree: clogged or sticking",
        alone="gives less than is expected of it: clogged or sticking",
        not_ruled_out=("coil", "command", "tester_supply"),
    ),
    VerdictRow(
        name="gives less while the engine runs, still after cleaning",
        needs=_facts("running_low", "after_cleaning"),
        condition="gives_less", action="replace",
        because="gives less than the injectors that agree, and cleaning did not change it",
        alone="gives less than is expected of it, and cleaning did not change it",
        not_ruled_out=("coil", "command", "compression"),
    ),
    VerdictRow(
        name="gives less while the engine runs",
        needs=_facts("running_low"),
        condition="gives_less", action="clean_and_repeat",
        because="gives less than the injectors that agree: clogged or sticking",
        alone="gives less than is expected of it: clogged or sticking",
        # A burst with the engine off knows nothing of the cylinder, a running engine does.
        not_ruled_out=("coil", "command", "tester_supply", "compression"),
    ),
    VerdictRow(
        name="gives more",
        needs=_facts("drop_high running_high bench_high"),
        condition="gives_more", action="bench_test",
        because="gives more than the injectors that agree: leaking, worn, or read late",
        alone="gives more than is expected of it: leaking, worn, or read late",
        not_ruled_out=("read_late", "leak_during_the_burst", "tip"),
    ),
    VerdictRow(
        name="bad spray after cleaning",
        needs=_facts("spray_bad", "after_cleaning"),
        condition="bad_spray", action="replace",
        because="its volume fits, but the spray is still bad after cleaning",
    ),
    VerdictRow(
        name="bad spray",
        needs=_facts("spray_bad"),
        condition="bad_spray", action="clean_and_repeat",
        because="its volume fits, but the spray does not: clean it and look again",
    ),
)  # fmt: skip
