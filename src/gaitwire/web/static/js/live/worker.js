// A worker that holds the live drag's line to Python: the latest pointer wins, the next goes out only
// after the last reply. Its answers go to the painter and to the page at once.
import { headOf } from "../stage/frames.js";

const AGAIN = 500; // ms until a line that broke is taken up again

let socket = null, pending = null, sent = null, painter = null;

function connect(url) {
  if (socket && socket.readyState <= 1) return;
  socket = new WebSocket(url);
  socket.binaryType = "arraybuffer";
  socket.addEventListener("open", flush);
  socket.addEventListener("message", ({ data }) => receive(data));
  socket.addEventListener("close", () => {
    pending ??= sent; // the hand may still be down: what it wants last is asked for on a new line
    sent = null;
    postMessage({ kind: "closed" });
    if (pending) setTimeout(() => pending && connect(url), AGAIN);
  });
}

function flush() {
  if (sent || !pending || socket.readyState !== 1) return;
  sent = pending;
  pending = null;
  socket.send(JSON.stringify(sent.message));
}

function receive(reply) {
  const { seq, message, at, turn } = sent;
  sent = null;
  flush();
  const took = performance.timeOrigin + performance.now() - at;
  painter?.postMessage({ reply, turn });
  postMessage({ kind: "reply", head: headOf(reply), reply, message, seq, took }, { transfer: [reply] });
}

const KINDS = {
  painter({ port }) { painter = port; },
  move({ url, ...move }) {
    pending = move;
    connect(url);
    flush();
  },
  drop() { pending = null; },
};

addEventListener("message", ({ data }) => KINDS[data.kind](data));
