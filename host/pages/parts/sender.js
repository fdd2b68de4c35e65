/* The page: what stands on it for the chosen link, and what happens when somebody presses.
 * The link's client does the sending; a line carries the bytes.
 * All that is shown of the device is what it answered. */
const served = location.protocol.startsWith("http");
for (const link of lexicon.links) link.card = lexicon.card.links.find(c => c.name === link.name);

const now = { link: null, client: null, line: null, rows: [], handset: null, open: false };
const MOST_ROWS = 500; /* of the conversation */

/* ---- what a browser keeps ---- */

const keep = {
    key: name => `${lexicon.card.lexicon}.${name}`,
    get(name) {
        try { return localStorage.getItem(this.key(name)); } catch { return null; }
    },
    set(name, value) {
        try { localStorage.setItem(this.key(name), value); } catch { /* it is forgotten then */ }
    },
};

/* ---- the conversation ---- */

const began = performance.now();

function tell(way, text, kind, bytes) {
    const seconds = ((performance.now() - began) / 1000).toFixed(2);
    const row = element("li", { class: way === ">" ? "out" : "in" }, element("time", {}, `${seconds} s`),
                        element("span", { class: "way" }, way), element("span", { class: kind || "" }, shownText(text)));
    if (bytes) row.append(element("span", { class: "numbers" }, Array.from(bytes, b => b.toString(16).padStart(2, "0")).join(" ")));
    addRow(at("log"), row, MOST_ROWS);
}

function say(state, kind) {
    at("state").textContent = state;
    at("state").className = kind || "";
}

/* ---- what came of a command ---- */

const SHOWN = {
    waits: "waits", sent: "sent", dropped: "not sent: something newer took its place",
    unanswered: "no answer: obeyed once, or not at all", done: "", already: "", refused: "",
};

function result(row, text, kind) {
    if (!row) return;
    row.result.textContent = text;
    row.result.className = `result ${kind}`;
}

function changed(request) {
    if (["waits", "sent", "dropped", "unanswered"].includes(request.state)) {
        const silent = request.state === "sent" && !now.link.answered;
        result(request.row, silent ? "sent; nobody answers on this link" : SHOWN[request.state], request.state);
        if (request.state === "unanswered") tell("·", `no answer to "${request.text}"`, "unanswered");
    }
}

function heard(is, text, request) {
    const extra = { started: is.known ? "" : "   another lexicon than this page's", refused: is.why ? `   ${is.why}` : "",
                    damaged: "   damaged", renewed: "   the device knows an earlier start of this sender" }[is.what] || "";
    tell("<", text + extra, is.what);
    if (request) {
        const short = text === "ok" ? request.text : text; /* which says no more */
        const plain = short.replace(/^ok /, "").replace(/ waiting \d+ms$/, is.waits ? ` in ${is.waits / 1000} s` : "");
        result(request.row, is.what === "refused" ? text + extra : plain, is.what);
    }
    if (is.what === "started") {
        for (const row of now.rows) result(row, "", "");
        say(is.known ? "connected" : "connected: another lexicon", is.known ? "on" : "lost");
    }
    if (is.what === "event" && now.handset) now.handset.event(is);
}

/* Sends it, and shows in its row what comes of it. */
function send(text, options = {}) {
    if (!now.client) {
        result(options.row, "not connected", "why");
        return null;
    }
    const request = now.client.send(text, options);
    if (request.why) {
        result(options.row, request.why, "why");
        if (!options.row) tell("·", request.why, "why");
        return null;
    }
    request.row = options.row;
    if (options.row) changed(request);
    return request;
}

/* ---- commands and questions ---- */

/* A query that is asked for something, as the card has it. */
const askedFor = request => (lexicon.card.queries || []).find(q => q.of && q.text === request.text);

function commandRow(request) {
    const query = askedFor(request), label = request.text;
    const command = query ? { pattern: [label.split(" ")[0], ...query.of] } : lexicon.card.commands[request.command];
    const parts = commandParts(command.pattern, label), slots = parts.filter(p => p.slot);
    const row = { result: element("span", { class: "result", role: "status" }) };
    const box = element("div", { class: "row", "data-command": request.text });
    const options = () => ({ command: query ? null : command, newest: command.newest, row });
    const text = () => parts.map(p => p.word || p.value()).join(" ");
    const go = () => {
        try { send(text(), options()); } catch (e) { result(row, e.message, "why"); }
    };
    const only = slots.length === 1 && slots[0].slot.kind === "choice" && slots[0].slot;
    for (const part of parts) {
        if (part.word) box.append(element("span", { class: "words" }, part.word));
        else if (only) {
            for (const word of only.words) {
                const button = element("button", { type: "button" }, word);
                button.onclick = () => { part.value = () => word; go(); };
                box.append(button);
            }
        } else {
            box.append(element("span", { class: part.slider ? "number" : "" }, ...part.fields));
            if (part.field) part.field.addEventListener("keydown", e => { if (e.key === "Enter") go(); });
            if (part.slider && slots.length === 1) part.slider.addEventListener("change", go);
        }
    }
    if (!only) {
        const button = element("button", { type: "button" }, "Send");
        button.onclick = go;
        box.append(button);
    }
    if (request.title) box.append(element("span", { class: "title" }, request.title));
    box.append(row.result);
    now.rows.push(row);
    return box;
}

/* A key or a code: one press; its digits are filled in. */
function keyRow([code, says]) {
    const row = { result: element("span", { class: "result", role: "status" }) };
    const digits = code.split("#").length - 1;
    const field = digits && element("input", { type: "number", min: 0, max: 10 ** digits - 1, value: 0,
                                               "aria-label": `${says}: digits` });
    const button = element("button", { type: "button" }, digits ? says.replace(/ ?#+/, " …") : says);
    button.onclick = () => send(digits ? says.replace(/#+/, Number(field.value)) : says, { row });
    now.rows.push(row);
    return element("div", { class: "row", "data-command": says }, button, ...(digits ? [field] : []),
                   element("small", {}, code), row.result);
}

function askRow(request) {
    const row = { result: element("span", { class: "result", role: "status" }) };
    const button = element("button", { type: "button" }, request.text);
    button.onclick = () => send(request.text, { row });
    now.rows.push(row);
    return element("div", { class: "row", "data-command": request.text }, button,
                   element("small", {}, request.title || ""), row.result);
}

/* ---- the handset ---- */

class Handset {
    constructor(of, box) {
        this.of = of;
        this.down = new Map(); /* button -> what it is until its release */
        this.lamps = of.lamps.map(l => element("span", { class: "lamp", "aria-label": `${l.name}: dark` }, l.name));
        const keys = [...new Set(of.buttons.map(b => b.name))].map(name => this.key(name));
        box.replaceChildren(element("h2", {}, `Handset ${of.name}`), element("div", { class: "keys" }, ...keys),
                            ...of.sliders.map(s => this.slider(s)), element("div", { class: "lamps" }, ...this.lamps));
    }

    /* Beside another button that is held it may be something else. */
    rowOf(name) {
        const rows = this.of.buttons.filter(b => b.name === name);
        return rows.find(b => b.with && this.down.has(b.with)) || rows.find(b => !b.with);
    }

    isBeside(name) {
        return [...this.down.values()].some(d => d.row && d.row.with === name);
    }

    key(name) {
        const rows = this.of.buttons.filter(b => b.name === name);
        const key = element("button", { type: "button", "data-button": name }, name,
                            ...rows.map(b => element("small", {}, (b.with ? `with ${b.with}: ` : "") + (b.press || b.release || ""))));
        const press = e => { e.preventDefault(); if (e.pointerId !== undefined) key.setPointerCapture(e.pointerId); this.press(name, key); };
        const release = () => this.release(name, key);
        key.onpointerdown = e => { if (e.button === 0) press(e); };
        key.onpointerup = key.onpointercancel = key.onlostpointercapture = key.onblur = release;
        key.oncontextmenu = e => e.preventDefault();
        key.onkeydown = e => { if ((e.key === " " || e.key === "Enter") && !e.repeat) press(e); };
        key.onkeyup = e => { if (e.key === " " || e.key === "Enter") { e.preventDefault(); release(); } };
        return key;
    }

    press(name, key) {
        if (this.down.has(name)) return;
        const row = this.rowOf(name), is = { row, key };
        this.down.set(name, is);
        key.classList.add("now");
        if (!row) return;
        if (row.press) send(row.press);
        if (row.held && this.of.repeat_ms)
            is.timer = setInterval(() => {
                if (now.client && now.client.idle && !this.isBeside(name)) send(row.held);
            }, this.of.repeat_ms);
    }

    release(name, key) {
        const is = this.down.get(name);
        if (!is) return;
        this.down.delete(name);
        clearInterval(is.timer);
        key.classList.remove("now");
        if (is.row && is.row.release) send(is.row.release);
        if (this.of.idle && !this.down.size) send(this.of.idle);
    }

    releaseAll() {
        for (const [name, is] of [...this.down]) this.release(name, is.key);
    }

    /* The newest position counts: it is sent when the command before it is over. */
    slider(of) {
        const field = element("input", { type: "range", min: 0, max: of.texts.length - 1, step: 1, value: 0,
                                         "aria-label": `slider ${of.name}`, "data-slider": of.name });
        const shown = element("output", {}, "");
        let sent = null;
        const follow = () => {
            const text = of.texts[field.value];
            if (!now.client || text === sent) return;
            if (!now.client.idle) {
                setTimeout(follow, 20);
                return;
            }
            sent = text;
            send(text);
        };
        field.oninput = () => {
            shown.textContent = of.texts[field.value];
            field.setAttribute("aria-valuetext", of.texts[field.value]);
            follow();
        };
        return element("label", { class: "slide" }, of.name, field, shown);
    }

    event(is) {
        this.of.lamps.forEach((l, i) => {
            if (l.event !== is.event) return;
            const lit = !l.word || l.word === is.word;
            this.lamps[i].classList.toggle("lit", lit);
            this.lamps[i].setAttribute("aria-label", `${l.name}: ${lit ? "lit" : "dark"}`);
        });
    }
}

/* ---- the connection ---- */

function address() {
    if (served) return `ws://${location.host}/link/${now.link.name}${location.search}`;
    const given = new URL(at("address").value.trim().replace(/^ws:/, "http:"));
    return `ws://${given.host}/link/${now.link.name}${given.search}`;
}

function close() {
    if (now.handset) now.handset.releaseAll();
    if (now.client) now.client.stop();
    if (now.line) now.line.close();
    now.line = now.client = null;
    if (now.link) showConnection();
}

/* `make(calls)` makes the line. */
function connect(make) {
    const link = now.link;
    let line = null;
    const calls = {
        opened() {
            if (now.line !== line) return;
            now.client = new Client(lexicon, link, Number(at("from").value) || 1, {
                write(bytes, request) {
                    if (!line.write(bytes)) return false;
                    tell(">", request.text + (request.tried ? `   again, ${request.tried + 1} of ${link.tries}` : ""), "", bytes);
                    return true;
                },
                heard, changed,
            });
            now.client.code = at("code").value;
            say("connected", "on");
            showConnection();
        },
        came(bytes) { if (now.line === line && now.client) now.client.receive(bytes); },
        closed(why) {
            if (now.line !== line) return;
            now.line = null;
            if (now.client) now.client.stop();
            now.client = null;
            say(why || "not connected", why ? "lost" : "");
            showConnection();
        },
    };
    close();
    say("connecting …");
    try {
        line = make(calls);
        now.line = line;
    } catch (e) {
        say(e.message, "lost");
    }
    showConnection();
}

function open() {
    if (now.link.card.medium === "sms") {
        keep.set("number", at("number").value);
        connect(calls => new MessageLine(at("number").value.trim(), calls));
        return;
    }
    keep.set("address", at("address").value);
    connect(calls => new SocketLine(address(), now.link, calls));
}

function showConnection() {
    const message = now.link.card.medium === "sms", connected = Boolean(now.line);
    const serial = !served && !message && !SerialLine.why(now.link);
    at("from-box").hidden = !now.link.card.senders;
    at("code-box").hidden = !now.link.code;
    at("address-box").hidden = served || message || connected;
    at("number-box").hidden = !message || connected;
    at("serial").hidden = !serial || connected;
    at("open").hidden = connected;
    at("close").hidden = !connected;
    at("halt").disabled = !now.client;
    at("line").disabled = !now.client;
}

/* ---- the whole ---- */

function choose(name) {
    close();
    now.link = lexicon.links.find(l => l.name === name) || lexicon.links[0];
    now.rows = [];
    const { link } = now, rows = { command: at("commands"), ask: at("asks") };
    for (const box of Object.values(rows)) box.replaceChildren(box.querySelector("h2"));
    const known = [], keysOnly = link.keyed && !link.card.lead;
    if (link.keyed) rows.command.append(...link.keys.filter(k => k[1] !== "halt").map(keyRow));
    for (const request of link.requests) {
        const isCommand = request.kind === "command";
        if (request.text === "halt" || keysOnly) continue;
        (isCommand ? rows.command : rows.ask).append(isCommand || askedFor(request) ? commandRow(request) : askRow(request));
        known.push(request.text.split(" {")[0]);
    }
    rows.ask.hidden = rows.ask.children.length < 2;
    rows.command.hidden = rows.command.children.length < 2;
    at("known").replaceChildren(...known.map(k => element("option", { value: k })));
    at("halt").hidden = !link.requests.some(r => r.text === "halt");
    at("type").hidden = link.keyed && !link.card.lead;
    at("manner").textContent = link.manner;
    at("link").value = link.name;
    at("about").textContent = `${lexicon.card.lexicon} ${lexicon.card.version}, link ${link.name}: ${link.card.medium}${link.card.baud ? ` ${link.card.baud} baud ${link.card.format}` : ""}`;
    at("from").replaceChildren(...Array.from({ length: link.card.senders || 0 }, (_, i) => element("option", {}, String(i + 1))));
    const of = lexicon.handsets.find(h => h.link === link.name);
    at("handset").hidden = !of;
    now.handset = of ? new Handset(of, at("handset")) : null;
    say("not connected");
    showConnection();
    if (served && link.card.medium !== "sms") open();
}

function begin() {
    const path = decodeURIComponent(location.pathname).split("/"), wanted = served ? path[2] : keep.get("link");
    const handset = lexicon.handsets.find(h => served && path[1] === "handset" && h.name === wanted);
    at("title").textContent = lexicon.card.title || lexicon.card.lexicon;
    at("link").replaceChildren(...lexicon.links.map(l => element("option", {}, l.name)));
    at("address").value = keep.get("address") || "";
    at("number").value = keep.get("number") || "";
    document.body.classList.toggle("only-handset", Boolean(handset));
    at("link").onchange = () => { keep.set("link", at("link").value); choose(at("link").value); };
    at("from").onchange = () => { if (now.client) open(); };
    at("code").oninput = () => { if (now.client) now.client.code = at("code").value; };
    at("open").onclick = open;
    at("serial").onclick = () => connect(calls => new SerialLine(now.link, calls));
    at("close").onclick = () => { close(); say("not connected"); };
    at("halt").onclick = () => { if (now.client) now.client.halt(); };
    at("bytes").onchange = () => at("log").classList.toggle("numbered", at("bytes").checked);
    at("type").onsubmit = e => {
        e.preventDefault();
        if (at("line").value.trim() && send(at("line").value.trim())) at("line").value = "";
    };
    window.addEventListener("blur", () => { if (now.handset) now.handset.releaseAll(); });
    document.addEventListener("visibilitychange", () => { if (document.hidden && now.handset) now.handset.releaseAll(); });
    choose(handset ? handset.link : wanted);
}

begin();
