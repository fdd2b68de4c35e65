/* The bench: the board as it is, its links, and what somebody does. It knows the messages of
 * docs/bench-protocol.md and nothing else of the server.
 * A page that is loaded anew gets all from the server; a replay is in replay.js. */
const PROTOCOL = 1, MOST_ROWS = 300;
const SPEEDS = [0.1, 0.5, 1, 2, 10, 100];
const bench = { socket: null, outputs: new Map(), inputs: new Map(), links: new Map(), t: 0, at: 0, speed: 1, wanted: 1, seen: [], pictures: 0 };

function send(message) {
    if (replay.on) return;
    if (bench.socket && bench.socket.readyState === WebSocket.OPEN) bench.socket.send(JSON.stringify(message));
}

function tool(line) {
    if (replay.on) return;
    send({ do: "tool", line });
    bench.seen.push({ t: timeNow(), tool: line });
}

function say(text, kind) {
    at("state").textContent = text;
    at("state").className = kind || "";
}

/* ---- time ---- */

const timeNow = () => bench.t + (performance.now() - bench.at) / 1000 * bench.speed;

function setTime(t) {
    bench.t = t;
    bench.at = performance.now();
}

function showPace(speed) {
    bench.speed = speed;
    if (speed) bench.wanted = speed;
    at("run").textContent = speed ? "Pause" : "Run";
    at("run").setAttribute("aria-pressed", String(speed !== 0));
    at("speed").value = String(bench.wanted);
}

let before = performance.now();
function frame(now) {
    const seconds = (now - before) / 1000;
    before = now;
    replayGoesOn(seconds);
    const speed = replay.on ? (replay.plays ? bench.wanted : 0) : bench.speed, t = replay.on ? replay.t : timeNow();
    for (const [name, o] of bench.outputs) {
        if (o.move && speed) o.move(seconds * speed);
        const note = noteOf(name, t);
        if (o.note.textContent !== note) o.note.textContent = note;
    }
    at("clock").textContent = `${t.toFixed(replay.on ? 3 : 1)} s`;
    bench.pictures++;
    requestAnimationFrame(frame);
}

/* ---- outputs and inputs ---- */

function outputCard(output) {
    const { drawn, show, move } = (DRAWINGS[output.kind] || drawRelay)(output);
    const state = element("span", { class: "state" }), safe = element("small", {}, ""), note = element("span", { class: "note", role: "status" }), breaks = element("div", { class: "breaks" });
    const title = output.title && output.title !== output.name ? output.title : "";
    const card = element("article", { class: "output", "data-output": output.name, "aria-label": output.name },
                         element("span", { class: "what" }, output.name, " ", element("small", {}, title || output.kind)), drawn, element("span", {}, state, " ", safe), note,
                         element("span", { class: "wiring" }, output.wiring), breaks);
    if (!output.name.includes(".") && bench.loads)
        for (const how of [...(BREAKS[output.kind] || []), "mend"].filter((h, i, all) => all.length > 1)) {
            const button = element("button", { type: "button", "aria-label": `${how} ${output.name}` }, how);
            button.onclick = () => tool(`${how} ${output.name}`);
            breaks.append(button);
        }
    bench.outputs.set(output.name, { move, note, show: s => {
        if (s.speed) show(s);
        const turns = n => Math.round(n / 10);
        const moves = s.speed && (s.looks || s.speed[0] || s.speed[1]);
        const looks = !moves ? "" : output.kind === "led" ? `, looks like ${s.looks} %`
                    : output.kind === "motor" ? `, turns ${turns(s.speed[0])} %`
                    : output.kind === "pair" ? `, turns ${turns(s.speed[0])} and ${turns(s.speed[1])} %` : "";
        state.textContent = s.state + looks;
        safe.textContent = s.safe ? "safe" : "";
        card.classList.toggle("active", !s.safe);
        card.setAttribute("aria-label", `${output.name}: ${s.state}`);
    } });
    return card;
}

/* Short: a switch. Held for longer than that: a push button, which comes back when it is let go. */
const HELD_MS = 400;
function inputButton(input) {
    const button = element("button", { type: "button", "data-input": input.name, "aria-pressed": "false" }, input.name, " ", element("small", {}, "off"));
    let since = 0, was = false, now = false;
    const set = on => tool(`${input.name} ${on ? "on" : "off"}`);
    button.onpointerdown = e => {
        if (e.button) return;
        button.setPointerCapture(e.pointerId);
        since = performance.now();
        was = now;
        set(!now);
    };
    button.onpointerup = () => { if (since && performance.now() - since > HELD_MS) set(was); since = 0; };
    button.onclick = e => { if (e.detail === 0) set(!now); }; /* by the keyboard */
    bench.inputs.set(input.name, { show: s => {
        now = s.on;
        button.setAttribute("aria-pressed", String(s.on));
        button.lastChild.textContent = s.on ? "on" : "off";
    } });
    return button;
}

/* ---- links ---- */

function linkColumn(link) {
    const log = element("ol", { class: "log", role: "log", tabindex: "0", "aria-label": `Conversation over ${link.name}` });
    const line = element("input", { type: "text", "aria-label": `A command over ${link.name}`, autocomplete: "off", autocapitalize: "off",
                                    spellcheck: "false", list: `known-${link.name}` });
    const number = link.message && element("input", { type: "tel", "aria-label": `Who writes to ${link.name}`, placeholder: "from +15550142", size: 12 });
    const of = lexicon.links.find(l => l.name === link.name), known = element("datalist", { id: `known-${link.name}` });
    for (const request of of ? of.requests : []) known.append(element("option", { value: request.text.split(" {")[0] }));
    const form = element("form", {}, ...(number ? [number] : []), line, known, element("button", {}, "Send"));
    const lines = [];
    let from = 0;
    form.onsubmit = e => {
        e.preventDefault();
        if (!line.value) return;
        send({ do: "say", over: link.name, text: line.value, ...(number && number.value ? { from: number.value } : {}) });
        lines.push(line.value);
        from = lines.length;
        line.value = "";
    };
    line.onkeydown = e => {
        const step = { ArrowUp: -1, ArrowDown: 1 }[e.key];
        if (!step || !lines.length) return;
        e.preventDefault();
        from = Math.min(Math.max(from + step, 0), lines.length);
        line.value = lines[from] || "";
    };
    const state = element("small", {}, "");
    const handsets = lexicon.handsets.filter(h => h.link === link.name).map(h =>
        element("a", { href: `/handset/${h.name}${location.search}`, target: "_blank", rel: "noopener" }, `handset ${h.name}`));
    bench.links.set(link.name, { log, show: s => { state.textContent = s.state; } });
    return element("section", { class: "link", "data-link": link.name, "aria-label": `Link ${link.name}` },
                   element("h2", {}, link.name, element("small", {}, `${link.medium}, ${link.frame}`), state, ...handsets),
                   log, ...linkFaults({ ...link, baud: (lexicon.card.links.find(l => l.name === link.name) || {}).baud }), form);
}

const MARKS = { said: ">", answered: "<", known: "@", unknown: "?", away: "@", lost: "x", dropped: "x", collided: "x", damaged: "x" };

function showText(m) {
    if (bench.links.has(m.who)) noteText(m);
    if (!replay.on && bench.links.has(m.who) && (m.what === "said" || m.what === "answered")) bench.seen.push(m);
    const link = bench.links.get(m.who), log = link ? link.log : at("events");
    const number = m.number ? ` (${m.what === "said" ? "from" : "to"} ${m.number})` : "";
    const text = `${link ? "" : `${m.who} `}${MARKS[m.what] || !link ? "" : `${m.what} `}${shownText(m.text)}${number}`;
    addRow(log, element("li", { class: m.what }, element("span", { class: "way" }, MARKS[m.what] || "·"),
                        element("time", {}, `${m.t.toFixed(3)} s`), text), MOST_ROWS);
}

function showStates(states) {
    for (const [name, s] of Object.entries(states)) {
        const known = bench.outputs.get(name) || bench.inputs.get(name) || (name.startsWith("link ") && bench.links.get(name.slice(5)));
        if (known) known.show(s);
        if (bench.outputs.has(name)) noteState(name, s, bench.t);
        if (bench.outputs.has(name) && !replay.on) bench.seen.push({ t: bench.t, see: name, state: s.state });
    }
}

/* What there is: of the board that is served, or of a trace. */
function showBoard(m) {
    bench.seen = [];
    for (const map of [bench.outputs, bench.inputs, bench.links, notes.asked, notes.of, notes.began]) map.clear();
    at("outputs").replaceChildren(...m.outputs.map(outputCard));
    at("inputs").replaceChildren(...m.inputs.map(inputButton));
    at("inputs-head").hidden = !m.inputs.length;
    at("links").replaceChildren(...m.links.map(linkColumn));
    at("events").replaceChildren();
    at("tool-lines").replaceChildren(...m.tool.map(line => element("option", { value: line })));
}

/* ---- messages ---- */

const MESSAGES = {
    bench(m) {
        if (m.protocol !== PROTOCOL || m.lexicon !== lexicon.card.lexicon) {
            say("another version of rlx serves the board: load this page anew", "lost");
            bench.socket.close();
            return;
        }
        bench.loads = m.loads;
        bench.head = m.scene;
        showBoard(m);
        at("about").textContent = `${lexicon.card.lexicon} ${lexicon.card.version}, simulated, seed ${m.seed}`;
        setTime(m.t);
        showStates(m.states);
        m.texts.forEach(showText);
        setTime(m.t);
        showPace(m.speed);
        say("connected", "on");
    },
    states(m) {
        setTime(m.t);
        showStates(m.states);
    },
    text: showText,
    pace(m) {
        setTime(m.t);
        showPace(m.speed);
    },
    wrong(m) {
        const line = /"line":"(.*?)"/.exec(m.what);
        if (line) bench.seen = bench.seen.filter(e => e.tool !== line[1]);
        addRow(at("events"), element("li", { class: "wrong" }, element("span", { class: "way" }, "!"), `${m.what}: ${m.why}`), MOST_ROWS);
    },
};

function connect() {
    const socket = new WebSocket(`ws://${location.host}/bench${location.search}`);
    bench.socket = socket;
    say("connecting …");
    socket.onmessage = e => {
        if (replay.on) return;
        const message = JSON.parse(e.data);
        if (Object.hasOwn(MESSAGES, message.is) && (message.is === "bench" || bench.outputs.size || bench.links.size)) MESSAGES[message.is](message);
    };
    socket.onclose = () => {
        if (replay.on) return;
        bench.speed = 0;
        say("the board is gone: trying again", "lost");
        setTimeout(connect, 2000);
    };
}

at("title").textContent = lexicon.card.title || lexicon.card.lexicon;
at("about").textContent = `${lexicon.card.lexicon} ${lexicon.card.version}, simulated`;
at("speed").append(...SPEEDS.map(s => element("option", { value: String(s) }, `${s} ×`)));
at("run").onclick = () => send({ do: "pace", speed: bench.speed ? 0 : bench.wanted });
at("step").onclick = () => send({ do: "pace", speed: 0, step: true });
at("speed").onchange = () => { bench.wanted = Number(at("speed").value); if (!replay.on) send({ do: "pace", speed: bench.wanted }); };
at("save").onclick = () => {
    const link = element("a", { download: `${lexicon.card.lexicon}.scene`, href: URL.createObjectURL(new Blob([sceneText(bench.head, bench.seen, timeNow())])) });
    link.click();
    URL.revokeObjectURL(link.href);
};
at("tool").onsubmit = e => {
    e.preventDefault();
    if (at("tool-line").value.trim()) tool(at("tool-line").value.trim());
    at("tool-line").value = "";
};
at("restart").onclick = () => tool(`now reset ${at("cause").value}`);
for (const id of ["get-trace", "get-picture", "to-drill"]) at(id).href += location.search;
