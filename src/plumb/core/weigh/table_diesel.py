"""The rows of the verdict that speak of diesels: compression, rail, returns, nozzles."""

from typing import Final

from plumb.core.weigh.row import VerdictRow
from plumb.core.weigh.row import needs as _facts

DIESEL: Final = (
    VerdictRow(
        name="seat leaks, still after cleaning",
        needs=_facts("nozzle_seat_wet nozzle_seat_damp", "after_cleaning"),
        condition="seat_leaks", action="replace",
        because="its seat still leaks after cleaning: setting it does not cure that",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="seat leaks",
        needs=_facts("nozzle_seat_wet nozzle_seat_damp"),
        condition="seat_leaks", action="clean_and_repeat",
        because="its seat does not stay dry below opening pressure: a shim does not cure that. "
        "Clean it and hold it again; replace the nozzle if it stays wet",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="loses its pressure, still after cleaning",
        needs=_facts("nozzle_loses", "after_cleaning"),
        condition="seat_leaks", action="replace",
        because="held below its opening pressure it still loses more than its maker allows: its needle lets by",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="loses its pressure",
        needs=_facts("nozzle_loses"),
        condition="seat_leaks", action="clean_and_repeat",
        because="held below its opening pressure it loses more than its maker allows: dirt at its seat, or a needle "
        "that lets by. Clean it and hold it again; replace the nozzle if it stays so",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="nozzle sprays badly, still after cleaning",
        needs=_facts("nozzle_spray_bad", "after_cleaning"),
        condition="bad_spray", action="replace",
        because="its spray is still bad after cleaning: setting it does not cure that",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="nozzle sprays badly",
        needs=_facts("nozzle_spray_bad"),
        condition="bad_spray", action="clean_and_repeat",
        because="its spray is bad: a shim does not cure that. Clean it and stroke it again; "
        "replace the nozzle if it stays so",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="no pressure builds on the nozzle",
        needs=_facts("opens_none"),
        condition="no_response", action="bench_test",
        because="no pressure builds on it: stuck open, or broken inside",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="all of them open early alike",
        needs=_facts("opens_low", "set_opens_alike"),
        condition="opens_early", action="reshim",
        because="all of them open low by as much: prove the tester’s dial on a nozzle that is known, then set "
        "them. Alike they are hardly why one cylinder smokes or knocks",
        not_ruled_out=("tester_dial", "compression"),
    ),
    VerdictRow(
        name="all of them open late alike",
        needs=_facts("opens_high", "set_opens_alike"),
        condition="opens_late", action="reshim",
        because="all of them open high by as much: prove the tester’s dial on a nozzle that is known, then set "
        "them. Alike they are hardly why one cylinder smokes or knocks",
        not_ruled_out=("tester_dial", "compression"),
    ),
    VerdictRow(
        name="opens early",
        needs=_facts("opens_low"),
        condition="opens_early", action="reshim",
        because="it opens below its window or below the set: more shim under the spring",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="opens late",
        needs=_facts("opens_high"),
        condition="opens_late", action="reshim",
        because="it opens above its window or above the set: less shim under the spring",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="opens where it should, not all of it seen",
        needs=_facts("opens_in_plumb", "nozzle_unseen"),
        condition="not_settled",
        action="check_first",
        because="it opens where it should, but a nozzle is sound only when seat, sound and spray were "
        "seen as well",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="does not chatter",
        needs=_facts("opens_in_plumb", "nozzle_silent"),
        condition="not_settled",
        action="repeat",
        because="it opens where it should, but does not chatter: stroke it slowly once more; one that "
        "stays silent drags, and is cleaned",
        not_ruled_out=("compression",),
    ),
    VerdictRow(
        name="weak compression",
        needs=_facts("cranking_low"),
        condition="not_the_injector",
        action="check_first",
        because="its hump of starter current is low: compression comes before the injector",
    ),
    VerdictRow(
        name="no return",
        needs=_facts("returns_none"),
        condition="not_the_injector",
        action="check_first",
        because="nothing comes back from it while others return: the connection, or it is not "
        "being opened",
    ),
    VerdictRow(
        name="returns too much",
        needs=_facts("returns_high"),
        condition="returns_too_much",
        action="bench_test",
        because="it returns much more than those that return least: seat or valve worn inside",
        not_ruled_out=("rail_pressure",),
    ),
    VerdictRow(
        name="far off beside a rail that surges, with a code of its own",
        needs=_facts("correction_high", "cranking_in_plumb", "code_of_its_own", "rail_surges"),
        condition="gives_less",
        action="bench_test",
        because="a surge moves all cylinders alike: this one lies far from the others, its compression is even "
        "and a code names it. The rail’s control and this injector, both",
        not_ruled_out=("returns",),
    ),
    VerdictRow(
        name="the rail comes before the corrections",
        needs=_facts(
            "correction_high correction_low correction_in_plumb correction_unsettled "
            "correction_split", "rail_surges rail_low rail_none rail_high",
        ),
        condition="not_settled",
        action="check_first",
        because="the rail does not follow what is wanted, and moves every cylinder's figure: put "
        "that right, then read the corrections again",
    ),
    VerdictRow(
        name="weak cylinder, compression proven, rail not known",
        needs=_facts("correction_high", "cranking_in_plumb"),
        unless=frozenset({"rail_good"}),
        condition="gives_less",
        action="check_first",
        because="the controller gives it much more fuel and its compression is even, but the rail "
        "comes before the injector",
        not_ruled_out=("rail_pressure", "returns"),
    ),
    VerdictRow(
        name="strong cylinder, compression proven, rail not known",
        needs=_facts("correction_low", "cranking_in_plumb"),
        unless=frozenset({"rail_good"}),
        condition="gives_more",
        action="check_first",
        because="the controller takes fuel from it and its compression is even, but the rail comes "
        "before the injector",
        not_ruled_out=("rail_pressure", "returns"),
    ),
    VerdictRow(
        name="weak cylinder, compression and rail proven",
        needs=_facts("correction_high", "cranking_in_plumb", "rail_good"),
        condition="gives_less",
        action="bench_test",
        because="the controller gives it much more fuel than its neighbours, its compression is "
        "even with theirs, and the rail follows what is wanted",
        not_ruled_out=("returns",),
    ),
    VerdictRow(
        name="strong cylinder, compression and rail proven",
        needs=_facts("correction_low", "cranking_in_plumb", "rail_good"),
        condition="gives_more",
        action="bench_test",
        because="the controller takes fuel from it, its compression is even with the others, and "
        "the rail follows what is wanted",
        not_ruled_out=("returns",),
    ),
    VerdictRow(
        name="weak or strong cylinder",
        needs=_facts("correction_high correction_low"),
        condition="not_settled",
        action="check_first",
        because="a weak or strong cylinder, not yet an injector: compression and rail come first",
        not_ruled_out=("compression", "rail_pressure", "returns"),
    ),
)  # fmt: skip
"""Nozzles that were stroked first, then compression, what returns, and the corrections last."""
