const TONE_HZ = 880;
const TONE_S = 0.4;

/** A short tone; nothing where the browser lets none sound, as before the first touch of a page. */
export function beep(): void {
  try {
    const context = new AudioContext();
    const tone = context.createOscillator();
    const volume = context.createGain();
    volume.gain.value = 0.2;
    tone.frequency.value = TONE_HZ;
    tone.connect(volume).connect(context.destination);
    tone.start();
    tone.stop(context.currentTime + TONE_S);
    tone.onended = () => void context.close();
  } catch {
    // A timer that can't be heard can still be read.
  }
}
