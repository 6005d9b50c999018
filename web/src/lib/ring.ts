/** A short tone, where the browser lets one sound. */
export function ring(): void {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = 880;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + 0.6);
    tone.onended = () => void audio.close();
  } catch {
    // No sound on this machine: the words say it as well.
  }
}
