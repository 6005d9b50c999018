/** When somebody last touched this screen. */
let last = Date.now();

for (const name of ["pointerdown", "keydown", "wheel"]) {
  window.addEventListener(name, () => (last = Date.now()), { passive: true, capture: true });
}

/** Milliseconds since then. */
export function untouchedFor(): number {
  return Date.now() - last;
}
