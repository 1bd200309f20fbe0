// The line to the bench: questions, answers, and news.

/** Questions are promised an answer; what is refused is an error in words. */
export class Line {
  /** `hear(news)` for whatever is told unasked, `lost(words)` when the bench has ended. */
  constructor(hear, lost) {
    this.waiting = new Map();
    this.slots = new Map();
    this.next = 1;
    this.lost = lost;
    this.open = new Promise((done) => { this.opened = done; });
    const address = location.href.replace(/^http/, "ws").replace(/[?#].*$/, "");
    this.socket = new WebSocket(`${address}line`);
    this.socket.onopen = () => this.opened();
    this.socket.onclose = () => this.close();
    this.socket.onmessage = (event) => {
      const message = JSON.parse(event.data);
      if (message.tell) {
        hear(message);
        return;
      }
      const asked = this.waiting.get(message.re);
      this.waiting.delete(message.re);
      if (!asked) return;
      if (message.refused !== undefined) asked.refuse(new Error(message.refused));
      else asked.answer(message);
    };
  }

  close() {
    for (const asked of this.waiting.values()) asked.refuse(new Error("the bench has ended"));
    this.waiting.clear();
    this.lost("The bench has ended. What is not saved is still here; start hollow-probe live again and open its new address.");
  }

  async ask(question) {
    await this.open;
    if (this.socket.readyState !== WebSocket.OPEN) throw new Error("the bench has ended");
    const id = this.next++;
    return new Promise((answer, refuse) => {
      this.waiting.set(id, { answer, refuse });
      this.socket.send(JSON.stringify({ ...question, id }));
    });
  }

  /** Of questions of one slot that come faster than answers, only the last is asked. */
  latest(slot, question, done, failed) {
    const under = this.slots.get(slot);
    if (under) {
      under.next = { question, done, failed };
      return;
    }
    const state = { next: null };
    this.slots.set(slot, state);
    this.ask(question).then(done, failed).finally(() => {
      this.slots.delete(slot);
      if (state.next) this.latest(slot, state.next.question, state.next.done, state.next.failed);
    });
  }
}
