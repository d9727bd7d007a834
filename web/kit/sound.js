// Short tones, once somebody has touched the page: browsers let none sound before.
let sounds = null;

/** Plays notes: when each begins, its pitch in hertz, and how long it is, in seconds. */
export function play(notes) {
  if (!navigator.userActivation?.hasBeenActive) return;
  sounds ||= new AudioContext();
  for (const [at, pitch, long] of notes) {
    const note = sounds.createOscillator();
    const loud = sounds.createGain();
    loud.gain.value = 0.08;
    note.frequency.value = pitch;
    note.connect(loud).connect(sounds.destination);
    note.start(sounds.currentTime + at);
    note.stop(sounds.currentTime + at + long);
  }
}
