/* What is known of an output beside its state: that it waits, was refused and why, expired, or is in its safe state.
 * It is taken from the answers, as a person would: a firmware tells no more.
 * It asks nobody. */
const KEPT_S = 4;
const notes = { asked: new Map(), of: new Map(), began: new Map() };

/* The command that begins with these words, cut short or not; whatever envelope is around it. */
function commandOf(text) {
    const words = text.toLowerCase().match(/[a-z_][a-z0-9_-]*/g) || [];
    const shorten = lexicon.card.shorten || Infinity;
    const is = (word, of) => word === of || (word.length >= shorten && of.startsWith(word));
    for (const command of lexicon.card.commands) {
        const first = command.pattern && command.pattern[0];
        if (command.output && typeof first === "string" && words.some(w => is(w, first.toLowerCase()))) return command;
    }
    return null;
}

/* A text that was sent, or came back over a link. */
function noteText(m) {
    if (m.what === "said") {
        notes.asked.set(m.who, commandOf(m.text));
        return;
    }
    const command = notes.asked.get(m.who);
    if (m.what !== "answered" || !command || isUnasked(m.text)) return;
    const waits = / waiting (\d+)ms/.exec(m.text), error = /\berr (\S+)([^*]*)/.exec(m.text) || /\be(\d+)\b([^*]*)/.exec(m.text);
    const known = error && lexicon.errors.find(e => e.name === error[1] || String(e.number) === error[1]);
    if (waits) notes.of.set(command.output, { text: "waits", until: m.t + Number(waits[1]) / 1000 });
    else if (error) notes.of.set(command.output, { text: `refused: ${known ? known.name : error[1]}${error[2].trimEnd()}`, until: m.t + KEPT_S });
    else notes.of.delete(command.output);
    if (!error && command.expires_ms) notes.began.set(command.output, { t: m.t, ms: command.expires_ms });
}

/* An output is so by now. */
function noteState(name, state, t) {
    const began = notes.began.get(name), note = notes.of.get(name);
    if (note && note.text === "waits" && t > note.until - 0.05) notes.of.delete(name);
    if (began && state.safe && Math.abs(t - began.t - began.ms / 1000) < 0.1) {
        notes.of.set(name, { text: "expired", until: t + KEPT_S });
        notes.began.delete(name);
    }
}

/* Beside the state of an output, at this time. */
function noteOf(name, t) {
    const note = notes.of.get(name);
    if (!note || t > note.until) return "";
    return note.text === "waits" ? `waits ${Math.max(0, note.until - t).toFixed(1)} s` : note.text;
}
