/** How often a machine's frame, and its evidence, were changed. */
export interface Counts {
  revision: number;
  evidence_revision: number;
}

/** What is to be asked for anew: all of a machine, or all but what an answer brought already. */
export type Reach = "all" | "but runs" | "but frame";

const latest = (one: Counts, other: Counts): Counts => ({
  revision: Math.max(one.revision, other.revision),
  evidence_revision: Math.max(one.evidence_revision, other.evidence_revision),
});

/**
 * Keeps count of what a screen knows of its machine.
 *
 * A save of its own brings what it changed with it; news that count further than that are of others, or were missed.
 */
export class Knowledge {
  private heard: Counts = { revision: 0, evidence_revision: 0 };
  private owed: Reach | null = null;

  /** `seen` is null where nothing is known for certain. */
  constructor(private seen: Counts | null) {}

  /** The server says how far the machine is. */
  hear(counts: Counts): void {
    this.heard = latest(this.heard, counts);
  }

  /** Runs were saved here: they are known, and what follows from them is not. */
  savedRuns(evidence_revision: number): void {
    if (this.seen && evidence_revision === this.seen.evidence_revision + 1) {
      this.seen = { ...this.seen, evidence_revision };
      this.owe("but runs");
    } else this.hear({ revision: 0, evidence_revision });
  }

  /** Something of the frame was saved here, and the whole frame answered. */
  savedFrame({ revision, evidence_revision }: Counts): void {
    if (this.seen && revision === this.seen.revision + 1) {
      this.seen = { ...this.seen, revision };
      this.owe("but frame");
    }
    this.hear({ revision, evidence_revision });
  }

  /** Whether no later save is known of than the one that counted so far. */
  isLatest(evidence_revision: number): boolean {
    return evidence_revision >= Math.max(this.heard.evidence_revision, this.seen?.evidence_revision ?? 0);
  }

  /** Something was being read anew and was cut off: it is read again. */
  missed(): void {
    this.owe("all");
  }

  /** What is to be asked for now; it counts as known from here on. */
  due(): Reach | null {
    const { seen, heard } = this;
    const isBehind =
      !seen || heard.revision > seen.revision || heard.evidence_revision > seen.evidence_revision;
    const reach = isBehind ? "all" : this.owed;
    this.owed = null;
    this.seen = seen ? latest(seen, heard) : heard;
    return reach;
  }

  private owe(reach: Reach): void {
    this.owed = this.owed === null || this.owed === reach ? reach : "all";
  }
}
