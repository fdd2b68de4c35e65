/* Shows a trace with states on the bench again: forwards, backwards, from any place.
 * Every so many events the states are kept whole, so that any place is near one of them.
 * It reads what `rlx play --trace FILE --states` and the bench's own trace have, and sends nothing. */
const CHECKPOINT = 500;
const replay = { on: false, events: [], checkpoints: [], at: 0, t: 0, end: 0, plays: false, scene: null, failed: null };

const traceText = text => text.replace(/\\x([0-9A-F]{2})/g, (all, hex) => String.fromCharCode(parseInt(hex, 16)));

/* The events of a trace; throws where it is none, or has no states. */
function readTrace(text) {
    const trace = { events: [], board: null, lexicon: "", scene: null, failed: null };
    const lines = text.split("\n");
    for (let i = 0; i < lines.length; i++) {
        if (!lines[i]) continue;
        let m;
        try {
            m = JSON.parse(lines[i]);
        } catch (e) {
            if (i === lines.length - 1) break; /* cut off where it was written to last */
            throw new Error(`line ${i + 1} is no line of a trace`);
        }
        const t = m.t_us / 1e6;
        if (m.what === "begin") trace.lexicon = m.lexicon;
        else if (m.what === "board") trace.board = m;
        else if (m.what === "scene") trace.scene = m;
        else if (m.what === "states") trace.events.push({ t, states: m.states });
        else if (m.what === "step") trace.events.push({ t, step: m.line });
        else if (m.what === "failed") trace.events.push({ t, failed: trace.failed = m });
        else if (m.text !== undefined && !BESIDE.includes(m.what)) trace.events.push({ t, text: { t, what: m.what, who: m.name, text: traceText(m.text), number: m.number } });
    }
    if (!trace.board) throw new Error("it has no states: rlx play --trace FILE --states writes them");
    if (trace.lexicon !== lexicon.card.lexicon) throw new Error(`it is of the lexicon ${trace.lexicon}`);
    return trace;
}

/* Lines between a board and its modem, and packets that are in the conversation already. */
const BESIDE = ["to modem", "modem", "sent"];
const isStop = e => e.text || e.step || e.failed;

/* What is so after the first `count` events. */
function statesAfter(count) {
    const n = Math.floor(count / CHECKPOINT), all = { ...replay.checkpoints[n] };
    for (let i = n * CHECKPOINT; i < count; i++) Object.assign(all, replay.events[i].states);
    return all;
}

function showStep(count) {
    let line = 0;
    for (let i = count - 1; i >= 0 && !line; i--) line = replay.events[i].step || (replay.events[i].failed && replay.events[i].failed.line) || 0;
    for (const row of at("scene-lines").children) {
        const now = Number(row.dataset.line) === line;
        if (now) row.setAttribute("aria-current", "step");
        else row.removeAttribute("aria-current");
        if (now && row.offsetParent) at("scene-lines").scrollTop = row.offsetTop - at("scene-lines").offsetTop - at("scene-lines").clientHeight / 2;
    }
}

/* The bench as it was after so many events. */
function showReplay(count, t) {
    const back = count < replay.at || count - replay.at > CHECKPOINT;
    if (back) {
        for (const link of bench.links.values()) link.log.replaceChildren();
        at("events").replaceChildren();
        let first = count, texts = 0;
        while (first > 0 && texts < MOST_ROWS) if (replay.events[--first].text) texts++;
        showStates(statesAfter(count));
        for (let i = first; i < count; i++) if (replay.events[i].text) showText(replay.events[i].text);
    } else {
        for (let i = replay.at; i < count; i++) {
            if (replay.events[i].states) showStates(replay.events[i].states);
            if (replay.events[i].text) showText(replay.events[i].text);
        }
    }
    if (back || count !== replay.at) showStep(count);
    replay.at = count;
    replay.t = t;
    bench.t = t;
    bench.at = performance.now();
    at("replay-time").value = t;
    at("replay-time").setAttribute("aria-valuetext", `${t.toFixed(3)} s of ${replay.end.toFixed(3)} s`);
}

function countAt(t) {
    let low = 0, high = replay.events.length;
    while (low < high) {
        const middle = (low + high) >> 1;
        if (replay.events[middle].t <= t) low = middle + 1;
        else high = middle;
    }
    return low;
}

function replayPlays(plays) {
    replay.plays = plays;
    at("replay-play").textContent = plays ? "Pause" : "Play";
}

/* To where the next text came or the next line of the scene begins, or the one before. */
function replayStep(way) {
    replayPlays(false);
    let count = replay.at + way;
    while (count > 0 && count < replay.events.length && !isStop(replay.events[count - 1])) count += way;
    count = Math.min(Math.max(count, 0), replay.events.length);
    showReplay(count, count ? replay.events[count - 1].t : 0);
}

function replayGoesOn(seconds) {
    if (!replay.on || !replay.plays) return;
    const t = Math.min(replay.t + seconds * bench.wanted, replay.end);
    showReplay(countAt(t), t);
    if (t >= replay.end) replayPlays(false);
}

function showScene(trace) {
    at("scene-lines").replaceChildren();
    const source = trace.scene && trace.scene.source;
    for (const [i, text] of source ? source.replace(/\n$/, "").split("\n").entries() : []) {
        const failed = trace.failed && trace.failed.line === i + 1;
        at("scene-lines").append(element("li", { "data-line": i + 1, class: failed ? "wrong" : "" }, text || "\u00a0",
                                         ...(failed ? [element("strong", {}, `✗ expected ${trace.failed.expected}; came: ${trace.failed.came}`)] : [])));
    }
    at("scene-lines").hidden = !source;
}

function openTrace(text, name) {
    const trace = readTrace(text);
    document.body.classList.add("replayed");
    replay.on = true;
    bench.loads = false; /* nothing can be broken in a replay */
    bench.speed = 0;
    showBoard({ ...trace.board, tool: [] });
    Object.assign(replay, { events: trace.events, at: 0, t: 0, end: trace.events.length ? trace.events[trace.events.length - 1].t : 0, checkpoints: [{}] });
    for (let i = CHECKPOINT; i < trace.events.length; i += CHECKPOINT) {
        const all = { ...replay.checkpoints[replay.checkpoints.length - 1] };
        for (let k = i - CHECKPOINT; k < i; k++) Object.assign(all, trace.events[k].states);
        replay.checkpoints.push(all);
    }
    at("replay-time").max = replay.end;
    at("replayed").hidden = false;
    at("replay-name").textContent = trace.scene ? trace.scene.title : name;
    showScene(trace);
    const from = trace.events.findIndex(e => e.step);
    replayPlays(false);
    showReplay(from < 0 ? 0 : from + 1, from < 0 ? 0 : trace.events[from].t);
    say(trace.failed ? "a replay: it fails" : "a replay", trace.failed ? "lost" : "");
}

function closeReplay() {
    location.assign(location.pathname + location.search.replace(/[?&]replay=\d+/, "").replace(/^&/, "?"));
}

function replayFailed(why) {
    say(`cannot be shown: ${why}`, "lost");
}

/* A file that somebody chose: a trace, or a scene that this server plays first. */
async function openFile(file) {
    const text = await file.text();
    try {
        if (/\.scene$/.test(file.name)) await playScene({ scene: text }).then(number => openReplay(number));
        else openTrace(text, file.name);
    } catch (e) {
        replayFailed(e.message);
    }
}

async function openReplay(number) {
    const answer = await fetch(`/replay/${number}/trace${location.search.replace(/[?&]replay=\d+/, "").replace(/^&/, "?")}`);
    if (!answer.ok) throw new Error(await answer.text());
    openTrace(await answer.text(), `replay ${number}`);
}

at("replay-back").onclick = () => replayStep(-1);
at("replay-on").onclick = () => replayStep(1);
at("replay-play").onclick = () => {
    if (replay.t >= replay.end) showReplay(0, 0);
    replayPlays(!replay.plays);
};
at("replay-time").oninput = () => {
    const t = Number(at("replay-time").value);
    replayPlays(false);
    showReplay(countAt(t), t);
};
at("replay-close").onclick = closeReplay;
at("open").onchange = () => { if (at("open").files[0]) openFile(at("open").files[0]); at("open").value = ""; };
