/** How a response and a motion over time are worked out. */
export interface MotionWays {
  /** How the shapes of modes are scaled where they are listed. */
  scaled: "file" | "one" | "mass";
  /** Of a level: what 0 dB is (null: as usual), its weighting. */
  reference: number | null;
  weighting: "" | "A";
  /** Limits a response is held to beside another: shares a peak may be off in frequency and amplitude, the least FRAC (null: as usual). */
  offFrequency: number | null;
  offAmplitude: number | null;
  leastFrac: number | null;
  /** Of a phase: without jumps of a full turn. */
  unwrapped: boolean;
  /** Of spectra: window, pieces whose power is averaged, length of a piece of a spectrogram in s (null: as usual). */
  window: "hann" | "none" | "flattop";
  pieces: number;
  lasts: number | null;
  /** Damping ratio of a shock's masses; share within which a motion has settled. */
  damping: number;
  within: number;
  /** Of a rebound: place of what it meets ("": stands still), set that is pushed ("": none), part that moves. */
  meets: string;
  pushed: string;
  moves: string;
}

export const freshWays: MotionWays = {
  scaled: "file",
  reference: null,
  weighting: "",
  offFrequency: null,
  offAmplitude: null,
  leastFrac: null,
  unwrapped: false,
  window: "hann",
  pieces: 1,
  lasts: null,
  damping: 0.05,
  within: 0.05,
  meets: "",
  pushed: "",
  moves: "",
};

/** A motion that is looked at: the result it is held against (or whose modes it is made of), the place, the direction, what of a
 * response and of a trace over time is drawn, the modes it is rebuilt from (none: all), and the responses that stand beside that of
 * the place: other places, test:RECORD, of:RESULT:PLACE. */
export interface MotionChoice {
  other: number | null;
  at: string;
  axis: "x" | "y" | "z";
  drawn: "amplitude" | "level" | "bands" | "phase" | "nyquist";
  modes: number[];
  of: "spectrum" | "spectrogram" | "shock" | "decay" | "rebound";
  beside: string[];
  ways: MotionWays;
}

export const freshMotion: MotionChoice = {
  other: null,
  at: "",
  axis: "x",
  drawn: "amplitude",
  modes: [],
  of: "spectrum",
  beside: [],
  ways: freshWays,
};
