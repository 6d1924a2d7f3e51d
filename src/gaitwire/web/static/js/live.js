// A worker that holds the live drag's line to Python: the latest pointer wins, the next goes out only
// after the last reply. Its answers go to the painter and to the page at once.
import { unpackReply } from "./frames.js";

let socket = null, pending = null, sent = null, painter = null;

function connect(url) {
  if (socket && socket.readyState <= 1) return;
  socket = new WebSocket(url);
  socket.binaryType = "arraybuffer";
  socket.addEventListener("open", flush);
  socket.addEventListener("message", ({ data }) => receive(data));
  socket.addEventListener("close", () => {
    sent = pending = null;
    postMessage({ kind: "closed" });
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
  const { head } = unpackReply(reply);
  const took = performance.timeOrigin + performance.now() - at;
  painter?.postMessage({ reply, turn });
  postMessage({ kind: "reply", head, reply, message, seq, took }, [reply]);
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
