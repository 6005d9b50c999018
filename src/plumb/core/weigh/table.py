"""The rows of the verdict, first to last; the first that fits decides."""

from typing import Final

from plumb.core.weigh.row import VerdictRow
from plumb.core.weigh.row import needs as _facts
from plumb.core.weigh.table_amounts import AMOUNTS
from plumb.core.weigh.table_diesel import DIESEL

_COMMANDED: Final = "command_good driven_by_tester"
_SILENT: Final = "drop_none running_none bench_none"

TABLE: Final = (
    VerdictRow(
        name="coil shorted, and no pressure",
        needs=_facts("coil_short", "no_supply"), unless=frozenset({"contradicted"}),
        condition="coil_shorted", action="replace",
        because="its coil is far too low: turns are shorted, whatever the pump does",
        not_ruled_out=("meter",),
    ),
    VerdictRow(
        name="coil open, and no pressure",
        needs=_facts("coil_open", "no_supply", "a_coil_reads"), unless=frozenset({"contradicted"}),
        condition="coil_open", action="replace",
        because="its coil passes no current while others read, whatever the pump does",
        not_ruled_out=("meter",),
    ),
    VerdictRow(
        name="coil out of its window, and no pressure",
        needs=_facts("coil_out volts_out", "no_supply"), unless=frozenset({"contradicted"}),
        condition="coil_out_of_window", action="check_first",
        because="its coil is out of its window, whatever the pump does: measure it under load, and on a cold engine",
        not_ruled_out=("meter", "coil_under_load"),
    ),
    VerdictRow(
        name="no pump, no pressure",
        needs=_facts("no_supply"),
        condition="not_the_injector", action="check_first",
        because="without pressure no injector can be judged: pump, relay and feed come first",
    ),
    VerdictRow(
        name="contradiction",
        needs=_facts("contradicted"),
        condition="not_settled", action="repeat",
        because="two procedures contradict each other",
    ),
    VerdictRow(
        name="coil open, and no response",
        needs=_facts("coil_open", _SILENT, _COMMANDED), unless=frozenset({"tester_weak"}),
        condition="coil_open", action="replace",
        because="its coil passes no current, and though it is driven it gives nothing",
    ),
    VerdictRow(
        name="coil open, no other coil reads",
        needs=_facts("coil_open"), unless=frozenset({"a_coil_reads"}),
        condition="coil_open", action="check_first",
        because="no coil of the set reads: prove the meter and its leads first",
        not_ruled_out=("meter", "command"),
    ),
    VerdictRow(
        name="coil open",
        needs=_facts("coil_open"),
        condition="coil_open", action="replace",
        because="its coil passes no current while others read: it cannot open any more",
        not_ruled_out=("meter",),
    ),
    VerdictRow(
        name="coil shorted",
        needs=_facts("coil_short"),
        condition="coil_shorted", action="replace",
        because="its coil is far too low: turns are shorted, and it can pull its partners down",
        not_ruled_out=("meter",),
    ),
    VerdictRow(
        name="dragged down by a partner's coil",
        needs=_facts("dragged"),
        condition="not_the_injector", action="check_first",
        because="a coil far too low on the same driver pulls it down: put that right, then repeat",
    ),
    VerdictRow(
        name="dead together with all it shares a feed with",
        needs=_facts("feed_dead"), unless=frozenset({"command_good", "driven_by_tester"}),
        condition="not_the_injector", action="check_first",
        because="all on this feed are dead and the others answer: the feed, fuse or driver first",
        not_ruled_out=("shared_feed", "command", "coil", "stuck_shut"),
    ),
    VerdictRow(
        name="no command",
        needs=_facts("command_dark command_steady command_weak"),
        condition="no_command", action="check_first",
        because="the lamp at its plug does not blink as it should: wiring or driver, not the "
        "injector",
        not_ruled_out=("shared_feed",),
    ),
    VerdictRow(
        name="stuck open",
        needs=_facts("tip_pours"),
        condition="stuck_open", action="replace",
        because="its tip pours under pressure: stuck open. A tune-up goes with "
        "it: plugs, wires and fouled oil as needed",
    ),
    VerdictRow(
        name="stuck open, the rail collapses",
        needs=_facts("hold_collapsed high_hold_collapsed", "tip_drips tip_weeps"),
        condition="stuck_open", action="replace",
        because="the rail is empty within seconds and its tip is wet: stuck open. A tune-up goes "
        "with it: plugs, wires and fouled oil as needed",
    ),
    VerdictRow(
        name="leaks at the tip",
        needs=_facts(
            "tip_drips tip_weeps",
            "drop_high running_high hold_lost hold_small_leak high_hold_lost high_hold_small_leak tip_drips",
        ),
        condition="leaks_at_tip", action="replace",
        because="its tip is wet under pressure, and the rail or its drop shows it",
    ),
    VerdictRow(
        name="tip weeps, still after cleaning",
        needs=_facts("tip_weeps", "after_cleaning"),
        condition="leaks_at_tip", action="replace",
        because="its tip still weeps after cleaning",
    ),
    VerdictRow(
        name="tip weeps",
        needs=_facts("tip_weeps"),
        condition="leaks_at_tip", action="clean_and_repeat",
        because="its tip weeps, but nothing else shows it: clean it and look again",
    ),
    VerdictRow(
        name="read outside its conditions",
        needs=_facts("running_outside"),
        unless=frozenset({"drop_in_plumb"}),
        condition="not_settled", action="repeat",
        because="the readings were taken outside their conditions: put those right and repeat",
    ),
    VerdictRow(
        name="no response, and its cylinder misfires",
        needs=_facts(
            _SILENT, _COMMANDED, "coil_good volts_good", "misfire_counted code_of_its_own", "tester_good"
        ),
        unless=frozenset({"neighbour_answered", "after_cleaning"}),
        condition="no_response", action="clean_and_repeat",
        because="command and coil are good, it gives nothing, and its cylinder misfires: stuck shut or plugged. "
        "Clean it and repeat; replace it if it stays dead",
        not_ruled_out=("tester_supply", "shared_feed"),
    ),
    VerdictRow(
        name="no response, tester not proven",
        needs=_facts(_SILENT), unless=frozenset({"neighbour_answered"}),
        condition="no_response", action="check_first",
        because="no drop, and no neighbour has answered the same burst: prove the tester first",
        not_ruled_out=("tester_supply", "command", "coil", "shared_feed", "stuck_shut"),
    ),
    VerdictRow(
        name="no response on a weak supply",
        needs=_facts(f"{_SILENT} drop_low", "tester_weak"),
        condition="not_settled", action="repeat",
        because="the tester's supply was weak, which makes a good injector look stuck: repeat it "
        "on a battery",
        not_ruled_out=("tester_supply",),
    ),
    VerdictRow(
        name="too little with another part in as well",
        needs=_facts(f"{_SILENT} drop_low running_low correction_high", "part_is_new"),
        condition="not_settled", action="check_first",
        because="another part is in, and it still gives too little: what drives it, what feeds it and "
        "its own cylinder come before the next injector",
        not_ruled_out=(
            "coil", "command", "shared_feed", "supply_pressure", "compression", "rail_pressure"
        ),
    ),
    VerdictRow(
        name="no response, still after cleaning",
        needs=_facts(_SILENT, _COMMANDED, "coil_good volts_good", "after_cleaning"),
        condition="no_response", action="replace",
        because="stuck shut, and cleaning did not free it; command, coil and tester are proven",
        not_ruled_out=("tester_supply", "shared_feed"),
    ),
    VerdictRow(
        name="stuck shut",
        needs=_facts(_SILENT, _COMMANDED, "coil_good volts_good"),
        condition="no_response", action="clean_and_repeat",
        because="command and coil are good and its neighbours answer: stuck shut or plugged. "
        "Clean it and repeat; replace it if it stays dead",
        not_ruled_out=("tester_supply", "shared_feed"),
    ),
    VerdictRow(
        name="no response, a tester at its plug",
        needs=_facts(_SILENT, "driven_by_tester"),
        condition="no_response", action="check_first",
        because="no drop while its neighbours answer the same tester: its coil comes before the "
        "injector, and no command or feed is in between",
        not_ruled_out=("coil", "stuck_shut"),
    ),
    VerdictRow(
        name="no response, tester proven",
        needs=_facts(_SILENT),
        condition="no_response", action="check_first",
        because="no drop while its neighbours answer: plug, command and coil come before the "
        "injector",
        not_ruled_out=("command", "coil", "shared_feed", "stuck_shut"),
    ),
    VerdictRow(
        name="passes disagree, still after cleaning",
        needs=_facts("drop_intermittent running_intermittent bench_intermittent", "after_cleaning"),
        condition="intermittent", action="bench_test",
        because="its passes still disagree by more than they scatter, and cleaning did not change it",
        not_ruled_out=("command", "shared_feed", "tester_supply"),
    ),
    VerdictRow(
        name="passes disagree, and its cylinder misfires",
        needs=_facts(
            "drop_intermittent running_intermittent bench_intermittent",
            "misfire_counted code_of_its_own",
        ),
        condition="intermittent", action="clean_and_repeat",
        because="its passes disagree by more than they scatter, and its cylinder misfires: it sticks now and then",
        not_ruled_out=("command", "shared_feed", "tester_supply"),
    ),
    VerdictRow(
        name="passes disagree, and not by one alone",
        needs=_facts(
            "drop_intermittent running_intermittent bench_intermittent", "more_than_one_pass_off"
        ),
        condition="intermittent", action="clean_and_repeat",
        because="its passes fall apart, and not by one alone: it sticks now and then",
        not_ruled_out=("command", "shared_feed", "tester_supply"),
    ),
    VerdictRow(
        name="passes disagree",
        needs=_facts("drop_intermittent running_intermittent bench_intermittent"),
        condition="intermittent", action="repeat",
        because="its passes disagree by more than they scatter: a slip, or it sticks now and then. "
        "Look at its passes; if none is a slip, clean it and repeat",
        not_ruled_out=("command", "shared_feed", "tester_supply"),
    ),
    *DIESEL,
    *AMOUNTS,
    VerdictRow(
        name="coil out of its window under load too",
        needs=_facts("coil_out", "volts_out"),
        condition="coil_out_of_window", action="replace",
        because="its coil is out by resistance and under load",
    ),
    VerdictRow(
        name="coil out of its window",
        needs=_facts("coil_out volts_out"),
        condition="coil_out_of_window", action="check_first",
        because="its coil is out of its window: measure it under load, and on a cold engine",
        not_ruled_out=("meter", "coil_under_load"),
    ),
    VerdictRow(
        name="an injector leaks, which one is not known",
        needs=_facts("source_injectors source_injector_seats"),
        unless=frozenset({"tip_dry", "all_tips_dry"}),
        condition="not_settled", action="check_first",
        because="the rail loses its pressure through an injector: look at the tips",
        not_ruled_out=("tip",),
    ),
    VerdictRow(
        name="all alike low, supply good",
        needs=_facts("drop_in_plumb running_in_plumb bench_in_plumb", "set_low", "supply_good"),
        condition="gives_less", action="clean_and_repeat",
        because="in plumb with the others, but the whole set gives less than expected on a good "
        "supply: clogged alike",
    ),
    VerdictRow(
        name="all alike off",
        needs=_facts("drop_in_plumb running_in_plumb bench_in_plumb", "set_low set_high"),
        condition="off_alike", action="check_first",
        because="in plumb with the others, but the whole set is off: supply pressure and the "
        "burst come before the injectors",
        not_ruled_out=("supply_pressure", "fault_shared_by_all"),
    ),
    VerdictRow(
        name="returns alone prove no nozzle",
        needs=_facts("mechanical_nozzles", "returns_in_plumb"),
        unless=frozenset({"opens_in_plumb"}),
        condition="not_settled", action="check_first",
        because="it returns what the others return, but its opening pressure is not known",
        not_ruled_out=("opening_pressure",),
    ),
    VerdictRow(
        name="in plumb",
        needs=_facts(
            "drop_in_plumb running_in_plumb bench_in_plumb correction_in_plumb returns_in_plumb "
            "opens_in_plumb"
        ),
        condition="sound", action="keep",
        because="gives what the injectors that agree give",
        alone="gives what is expected of it",
        not_ruled_out=("fault_shared_by_all",),
    ),
    VerdictRow(
        name="set split, the other half leaks",
        needs=_facts("other_half_leaks"),
        condition="sound",
        action="keep",
        because="the set is split, but the other half is wet at its tips: this half holds",
        not_ruled_out=("fault_shared_by_all",),
    ),
    VerdictRow(
        name="set split",
        needs=_facts("drop_split running_split bench_split correction_split opens_split"),
        condition="not_settled", action="check_first",
        because="the set falls into halves; another procedure or an expected drop must say which "
        "is right",
        not_ruled_out=("shared_feed", "either_half"),
    ),
    VerdictRow(
        name="the rail ran empty",
        needs=_facts("ran_empty"),
        condition="not_settled",
        action="repeat",
        because="its burst emptied the rail, so what it gives is only a lower bound: repeat with a "
        "shorter burst",
    ),
    VerdictRow(
        name="alone, and nothing says what it should give",
        needs=_facts("alone"),
        condition="not_settled",
        action="check_first",
        because="the engine’s only injector has nothing to be compared with: note what it should give, "
        "from its maker or from when it was good",
    ),
    VerdictRow(
        name="on the edge",
        needs=_facts("on_the_edge"),
        condition="not_settled",
        action="repeat",
        because="it hangs on the edge of the band: one more pass may move it, a finer gauge or a "
        "longer burst would tell",
    ),
    VerdictRow(
        name="a set that is spread evenly",
        needs=_facts("graded"),
        condition="not_settled",
        action="check_first",
        because="the set is spread evenly, and who agrees is chance: what it should give, from its maker or from "
        "an earlier sheet, or a flow bench tells",
        not_ruled_out=("either_half",),
    ),
    VerdictRow(
        name="gauge too coarse",
        needs=_facts("too_coarse"),
        condition="not_settled", action="repeat",
        because="the gauge cannot tell it from the limit: a finer gauge or a longer burst",
    ),
    VerdictRow(
        name="something on the engine comes first",
        needs=_facts(
            "hose_wet supply_low supply_high regulator_dead source_supply_check_valve "
            "source_regulator source_regulator_diaphragm source_cold_start_injector "
            "source_outside_leak source_pump_outlet_valve source_control_valve source_unions "
            "rail_surges rail_low rail_none rail_high cranking_uneven"
        ),
        condition="not_the_injector",
        action="check_first",
        because="nothing speaks against it yet, and something on the engine must be put right first",
    ),
    VerdictRow(
        name="worked on, and held against nobody",
        needs=_facts("held_by_nobody"),
        condition="not_settled", action="measure",
        because="it was worked on, and nothing that stayed as it was is read beside it yet",
    ),
    VerdictRow(
        name="not measured",
        needs=_facts("never_read"),
        condition="not_measured", action="measure",
        because="no sheet has read it yet",
    ),
    VerdictRow(
        name="not settled",
        needs=(),
        condition="not_settled", action="repeat",
        because="the readings do not settle it",
    ),
)  # fmt: skip
