import type { Problem } from "../api/client";

/**
 * What Synaptor answered about the thing that is looked at.
 *
 * An answer is held together with what it is about: one that comes late, or that is about what was looked at
 * before, is never shown as that of another.
 */
export class Answer<T> {
  private held = $state.raw<{ about: string; data?: T | undefined; problem: string }>({ about: "", problem: "" });
  private turn = 0;

  /** Asks about a thing; an answer that another question has overtaken is not heard. */
  async ask(about: string, question: () => Promise<{ data?: T; error?: Problem }>): Promise<T | undefined> {
    const turn = ++this.turn;
    const { data, error } = await question();
    if (turn !== this.turn) return undefined;
    // What is known already stays while it cannot be read again.
    this.held = { about, data: data ?? this.of(about), problem: error?.detail ?? "" };
    return data;
  }

  /** What was answered about a thing, unless nothing was yet. */
  of(about: string): T | undefined {
    return this.held.about === about ? this.held.data : undefined;
  }

  /** Nobody has said anything about a thing yet. */
  waits(about: string): boolean {
    return this.held.about !== about;
  }

  /** Why nothing, or nothing newer, is known about a thing. */
  problem(about: string): string {
    return this.held.about === about ? this.held.problem : "";
  }
}
