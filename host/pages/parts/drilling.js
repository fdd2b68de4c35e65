/* The messages of a drill, shared by its page and the bench: docs/bench-protocol.md.
 * A scene is played by the server; its number leads to a trace and a picture.
 * It shows nothing. */
const drilling = { socket: null, asked: 0, plays: new Map(), calls: {} };

/* calls: what is done with each kind of message. The socket opens when it is first needed. */
function connectDrill(calls, closed) {
    drilling.calls = calls;
    return new Promise((done, fail) => {
        const socket = new WebSocket(`ws://${location.host}/drilling${location.search.replace(/[?&]replay=\d+/, "").replace(/^&/, "?")}`);
        drilling.socket = socket;
        socket.onopen = () => done(socket);
        socket.onmessage = e => {
            const m = JSON.parse(e.data), play = drilling.plays.get(m.asked);
            if (play && (m.is === "played" || m.is === "wrong")) {
                drilling.plays.delete(m.asked);
                if (m.number && !m.wrong) play.done(m);
                else play.fail(new Error(m.wrong || m.why));
            } else if (Object.hasOwn(drilling.calls, m.is)) {
                drilling.calls[m.is](m);
            }
        };
        socket.onclose = () => {
            drilling.socket = null;
            fail(new Error("the server is gone"));
            for (const play of drilling.plays.values()) play.fail(new Error("the server is gone"));
            drilling.plays.clear();
            if (closed) closed();
        };
    });
}

/* {cell}, {failure} or {scene}: what was played, with its number. */
async function playMessage(what) {
    if (!drilling.socket) await connectDrill(drilling.calls);
    const asked = `${Date.now()} ${++drilling.asked} ${Math.random()}`;
    const text = JSON.stringify({ do: "play", asked, ...what });
    if (new TextEncoder().encode(text).length > 64 * 1024) throw new Error("it has more than 64 KB");
    return new Promise((done, fail) => {
        drilling.plays.set(asked, { done, fail });
        drilling.socket.send(text);
    });
}

const playScene = async what => (await playMessage(what)).number;
