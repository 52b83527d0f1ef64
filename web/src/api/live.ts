/** The live channel of an open part; comes back by itself when the connection breaks. */

export type LiveEvent = { kind: string } & Record<string, unknown>;

export class Live {
  private socket: WebSocket | null = null;
  private closed = false;
  private pause = 300;
  private waiting: string[] = [];

  constructor(
    private part: string,
    private heard: (event: LiveEvent) => void,
  ) {
    this.open();
  }

  private open() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/live/parts/${this.part}`);
    this.socket = socket;
    socket.onopen = () => {
      this.pause = 300;
      for (const text of this.waiting.splice(0)) socket.send(text);
      this.heard({ kind: "connected" });
    };
    socket.onmessage = (m) => this.heard(JSON.parse(m.data));
    socket.onclose = (e) => {
      if (this.closed || e.code === 4404) return;
      this.heard({ kind: "disconnected" });
      setTimeout(() => !this.closed && this.open(), this.pause);
      this.pause = Math.min(this.pause * 2, 5000);
    };
  }

  send(data: Record<string, unknown>) {
    const text = JSON.stringify(data);
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(text);
    else this.waiting = [text];
  }

  close() {
    this.closed = true;
    this.socket?.close();
  }
}
