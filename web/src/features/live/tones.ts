/** Tones for hands that are busy: one for a reading taken, others for doubt, trouble and the end. */

const TUNES: Record<string, [hertz: number, at: number, seconds: number][]> = {
  taken: [[880, 0, 0.16]],
  doubt: [
    [415, 0, 0.16],
    [415, 0.24, 0.16],
  ],
  trouble: [[196, 0, 0.6]],
  done: [
    [660, 0, 0.14],
    [880, 0.16, 0.14],
    [1320, 0.32, 0.3],
  ],
};

let audio: AudioContext | null = null;

/** Sounds may begin only after somebody has pressed something. */
export function wakeTones(): void {
  try {
    audio ??= new AudioContext();
    void audio.resume();
  } catch {
    // No sound on this machine: the words say it as well.
  }
}

export function sound(tune: string): void {
  if (audio?.state !== "running") return;
  for (const [hertz, at, seconds] of TUNES[tune] ?? []) {
    const tone = audio.createOscillator();
    const loud = audio.createGain();
    tone.frequency.value = hertz;
    loud.gain.value = 0.25;
    tone.connect(loud).connect(audio.destination);
    tone.start(audio.currentTime + at);
    tone.stop(audio.currentTime + at + seconds);
  }
}
