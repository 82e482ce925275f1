/** How a program ends: once, in its own order, whoever asks for it first, be it a signal or what it runs. */
export class Ending {
  #begun = false;

  constructor(private readonly letGo: () => Promise<void>) {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => void this.end(0));
  }

  get begun(): boolean {
    return this.#begun;
  }

  async end(code: number): Promise<void> {
    if (this.#begun) return;
    this.#begun = true;
    await this.letGo();
    process.exit(code);
  }
}
