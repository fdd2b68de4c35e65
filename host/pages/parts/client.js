/* The retry client: one command is under way, the others wait.
 * With tags each is sent again until it is answered, and obeyed once; without them it is sent once.
 * It reads what comes back, and knows no page. */
const QUEUE = 16, RENEWALS = 4;

/* What a text of the device is: {what, ...}. `request`: the command that is under way. */
function meaning(lexicon, link, text, request) {
    const own = link.card.texts && link.card.texts.find(t =>
        t.more ? text.startsWith(textOf(t.bytes)) : text === textOf(t.bytes));
    const plain = own ? own.instead_of : text;
    let found;
    if ((found = /^ev (?:#(\d+) )?(\S+)(?: (\S+))?$/.exec(plain)))
        return { what: "event", number: found[1] && Number(found[1]), event: found[2], word: found[3] };
    if (/^note(?: |$)/.test(plain)) return { what: "note" };
    if (plain === "ready") return { what: "started", known: true }; /* in words of its own: nobody knows better */
    if ((found = /^ready (\S+) (\d+) ([0-9a-f]{8})(?: (\S+))?/.exec(plain)))
        return { what: "started", known: found[3] === lexicon.card.fingerprint, cause: found[4] };
    if (!request) return null;
    if ((found = /^err(?: (\S+))?/.exec(plain)) || (found = /^e(\d+)(?: |$)/.exec(plain))) {
        const error = lexicon.errors.find(e => e.name === found[1] || String(e.number) === found[1]);
        return { what: "refused", error: error ? error.name : found[1], why: error && error.text };
    }
    const said = isSaid(lexicon, request, text);
    if (said) return said;
    if (plain === "already") return { what: "already" };
    if (!/^ok(?: |$)/.test(plain)) return null;
    if (!own && plain !== "ok" && !isOf(request, plain.slice(3))) return null;
    found = / waiting (\d+)ms$/.exec(plain);
    return { what: / already$/.test(plain) ? "already" : "done", waits: found && Number(found[1]) };
}

/* Whether the answer is one that the lexicon has in words of its own: for this command, or for any
 * where a text of no known command was sent. */
function isSaid(lexicon, request, text) {
    for (const command of request.command ? [request.command] : lexicon.card.commands)
        for (const [key, what] of [["says", "done"], ["already", "already"]]) {
            if (!command[key]) continue;
            const parts = command[key].split(/\{[^}]*\}/).map(p => p.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
            if (new RegExp(`^${parts.join(".+")}$`).test(text)) return { what };
        }
    return null;
}

/* Whether this answer's first word is that of the command, which may be cut short. */
function isOf(request, answer) {
    const word = text => text.trim().toLowerCase().split(/[ ?]/)[0];
    return word(answer).startsWith(word(request.text));
}

class Client {
    /* calls: write(bytes) -> false: not now; heard(meaning, text, request); changed(request). */
    constructor(lexicon, link, from, calls) {
        this.lexicon = lexicon;
        this.link = link;
        this.from = from;
        this.calls = calls;
        this.waiting = [];
        this.tag = Math.floor(Math.random() * TAG_OPENS) | TAG_OPENS;
        this.opens = link.answered;
        this.sum = CRC_START;
        this.number = 0; /* of frames of bytes... */
        this.free = 0;   /* ...which a silence parts */
        this.begun = []; /* what came of one */
        this.collector = new Collector(link, bytes => this.frame(bytes));
    }

    /* A request, or {why} where it cannot be sent. */
    send(text, { command = null, newest = false, quiet = false } = {}) {
        const request = { text, command, quiet, tried: 0, renewed: 0, state: "waits" };
        const frame = this.framed(text, TAG_MOST);
        if (frame.why) return frame;
        if (text.length > this.link.command_bytes && !this.link.keyed)
            return { why: `longer than ${this.link.command_bytes} bytes` };
        const last = this.waiting[this.waiting.length - 1];
        const takes = newest && last && last.command === command && !last.tried;
        if (!takes && this.waiting.length >= QUEUE) return { why: `${QUEUE} commands wait` };
        if (takes) this.over(this.waiting.pop(), "dropped");
        this.waiting.push(request);
        this.calls.changed(request);
        this.poll();
        return request;
    }

    /* Drops what waits. */
    stop() {
        clearTimeout(this.timer);
        for (const r of this.waiting.splice(0)) {
            this.over(r, r.tried ? "unanswered" : "dropped");
            if (r.tried) this.nextTag();
        }
    }

    /* Nothing is obeyed after it. */
    halt() {
        this.stop();
        return this.send("halt");
    }

    get idle() {
        return !this.waiting.length;
    }

    coded(text) {
        return this.link.code ? `${this.code || ""} ${text}` : text;
    }

    /* The frame of a text: {bytes}, or {why} there is none. */
    framed(text, tag) {
        if (!this.link.card.layout) return frameOf(this.link, this.coded(text), { from: this.from, tag });
        const numbers = this.link.card.layout.frame.find(f => f.is === "number");
        const number = numbers ? this.number % 2 ** numbers.bits : 0;
        const made = layoutBytes(this.lexicon, this.link, text, number);
        return made ? { ...made, number, sum: CRC_START } : { why: `this link has no bytes for "${text}"` };
    }

    over(request, state) {
        request.state = state;
        this.calls.changed(request);
    }

    nextTag() {
        this.tag = this.tag + 1 & TAG_OPENS - 1 | (this.opens ? TAG_OPENS : 0);
    }

    finish(state) {
        clearTimeout(this.timer);
        const request = this.waiting.shift();
        this.nextTag();
        this.over(request, state);
        return request;
    }

    poll() {
        clearTimeout(this.timer);
        const request = this.waiting[0], { tries, pause_ms, answered } = this.link;
        if (!request) return;
        const now = performance.now(), window = this.link.card.tag_window_ms;
        const late = this.link.card.tags && request.tried && now - request.began > window / 2;
        if (request.tried && request.due > now && !late) {
            this.timer = setTimeout(() => this.poll(), request.due - now + 1);
            return;
        }
        if (request.tried === tries || late) {
            this.finish(answered ? "unanswered" : "sent");
            this.poll();
            return;
        }
        const frame = this.framed(request.text, this.tag), { card } = this.link;
        this.sum = frame.sum;
        if (now < this.free || !this.calls.write(frame.bytes, request)) {
            this.timer = setTimeout(() => this.poll(), 20);
            return;
        }
        if (card.layout) {
            this.number++;
            this.asked = { text: request.text, row: frame.row, number: frame.number };
            this.free = now + (card.gap_ms || 0) + 1 + (card.baud ? frame.bytes.length * 12000 / card.baud : 0);
        }
        if (!request.tried++) request.began = now;
        request.state = "sent";
        request.due = now + pause_ms * (answered ? request.tried : 1);
        this.calls.changed(request);
        this.timer = setTimeout(() => this.poll(), request.due - now + 1);
    }

    receive(bytes) {
        this.collector.take(bytes);
    }

    frame(bytes) {
        if (this.link.card.layout) this.layout(bytes);
        else this.hear(unframe(this.link, bytes, this), bytes);
    }

    /* With flags, and in packets, a frame is all of it. */
    layout(given) {
        if (this.link.card.frame === "gap") {
            this.begun.push(...given);
            clearTimeout(this.silence);
            this.take(false);
            this.silence = setTimeout(() => this.take(true), this.link.card.gap_ms + 100);
            return;
        }
        const bytes = unwrapped(this.link, given), is = layoutText(this.lexicon, this.link, bytes, this.awaited);
        const whole = is && is.used === bytes.length;
        if (bytes.length) this.hear(whole ? { text: is.text, tag: 0, own: true } : { damaged: true }, bytes);
    }

    /* Frames that stand behind each other, as far as they have come; `over`: what is none is passed over. */
    take(over) {
        while (this.begun.length) {
            const is = layoutText(this.lexicon, this.link, this.begun, this.awaited);
            if (!is && !over && this.begun.length < 256) return;
            const bytes = this.begun.splice(0, is ? is.used : 1);
            if (is) this.hear({ text: is.text, tag: 0, own: true }, bytes);
        }
    }

    get awaited() {
        return this.waiting.length && this.waiting[0].tried ? this.asked : null;
    }

    hear(heard, bytes) {
        if (!heard || heard.damaged) {
            this.calls.heard({ what: heard ? "damaged" : "others" }, textOf(bytes), null);
            return;
        }
        const { card, answered } = this.link, first = this.waiting[0];
        const awaited = answered && heard.own && first && first.tried &&
            (!card.tags || heard.tag === this.tag);
        const is = meaning(this.lexicon, this.link, heard.text, awaited ? first : null);
        if (!is) this.calls.heard({ what: "others" }, heard.text, null);
        else if (["event", "note", "started"].includes(is.what)) this.unasked(is, heard.text);
        else if (card.tags && is.error === "old") this.renew(first, heard.text);
        else this.answered(is, heard.text);
        if (awaited && is) this.poll();
    }

    answered(is, text) {
        this.opens = false;
        this.calls.heard(is, text, this.finish(is.what));
    }

    unasked(is, text) {
        this.calls.heard(is, text, null);
        if (is.number !== undefined && is.number !== null && !this.link.keyed)
            this.send(`got ${is.number}`, { quiet: true });
    }

    /* The device knows another tag of this sender, from an earlier start: it did not obey. */
    renew(request, text) {
        const last = /(\d+)$/.exec(text.replace(/^e18\b/, ""));
        this.calls.heard({ what: "renewed" }, text, null);
        if (!last || request.renewed++ === RENEWALS) {
            this.finish("unanswered");
            return;
        }
        this.opens = false;
        this.tag = Number(last[1]) + 1 & TAG_OPENS - 1;
        request.tried = 0;
    }
}
