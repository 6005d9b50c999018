/** A stroke of the hand pump: pressure and shims, then sound, spray and seat. */
import { nextOf } from "../entry/draft";
import { NozzleKnobs, seenNow } from "./Nozzle";
import type { Shape } from "./shape";

export const stroke: Shape = {
  hint: () =>
    "Pressure, a space and the shims inside, then Enter; C sound, S spray, T holds the seat.",
  keys: () => [
    ["125.5 1.04 Enter", "opening pressure, and the shims inside where they changed"],
    ["C", "the sound: chatters, weak, silent"],
    ["S", "the spray: even, streaky, stream, none"],
    ["T", "hold the seat for 10 s; then D dry, M damp, W wet"],
    ["R", "repeat: one more stroke of this nozzle"],
    ["X", "no pressure builds"],
  ],
  acts: ({ sheet, entry }) => {
    const { sounds, sprays } = sheet.entry;
    const { look, seat } = entry;
    const held = {
      d: () => seat.seen("dry"),
      m: () => seat.seen("damp"),
      w: () => seat.seen("wet"),
      escape: seat.stop,
    };
    return {
      c: () => look({ sound: nextOf(sounds, seenNow(entry, "sound")) }),
      s: () => look({ spray: nextOf(sprays, seenNow(entry, "spray")) }),
      t: seat.begin,
      ...(seat.held === null ? {} : held),
    };
  },
  Knobs: NozzleKnobs,
};
