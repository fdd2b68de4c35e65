/* Frames of bytes: a command's text to the bits of its row, and what the device sends to the text of
 * an answer or event, by the layout that the card has.
 * The rest of the page knows texts only. Nothing here waits. */
const FLAG = 0x7e, ESCAPE = 0x7d, SLOT = /^\{([^}]*)\}/;

/* ---- numbers ---- */

/* The number in a text, as the device has it: without its point, in milliseconds. */
function slotNumber(slot, text) {
    let t = String(text);
    if (slot.behind && t.startsWith(slot.behind)) t = t.slice(slot.behind.length);
    if (slot.unit_required && t.endsWith(slot.unit)) t = t.slice(0, -slot.unit.length);
    if (slot.form === "time") return timeOf(t, slot.bare_unit);
    if (slot.form === "hex") return /^0x[0-9a-f]+$/i.test(t) ? parseInt(t, 16) : NaN;
    return /^-?\d+(\.\d+)?$/.test(t) ? Math.round(Number(t) * 10 ** (slot.decimals || 0)) : NaN;
}

/* The text of a value that came in bytes; null: it has none. */
function slotText(slot, value) {
    if (slot.kind === "choice") return slot.words[value] ?? null;
    if (slot.kind === "set") return slot.words.filter((w, i) => value >> i & 1).join("+") || "none";
    const written = slot.form === "time" ? timeText(value)
                  : slot.form === "hex" ? `0x${value.toString(16).toUpperCase()}`
                  : (value / 10 ** (slot.decimals || 0)).toFixed(slot.decimals || 0);
    return (slot.behind || "") + written + (slot.unit_required ? slot.unit : "");
}

/* To the nearest. */
function between(value, from, to, low, high) {
    const part = (value - from) * (high - low) / (to - from);
    return low + Math.sign(part) * Math.round(Math.abs(part));
}

const lowOf = slot => slotNumber({ ...slot, unit_required: false, behind: "" }, slot.low);
const highOf = slot => slotNumber({ ...slot, unit_required: false, behind: "" }, slot.high);

/* ---- rows ---- */

/* The slots that a row's text names, and those of its answer: {slots, answer}; null: it is another
 * command. */
function fits(row, pattern) {
    const words = row.text.split(" "), slots = {};
    if (words.length !== pattern.length) return null;
    for (const [i, e] of pattern.entries()) {
        const named = SLOT.exec(words[i]);
        if (named && e.name === named[1]) slots[e.name] = e;
        else if (named || !(e === words[i] || (e.words || e.spellings || []).includes(words[i]))) return null;
    }
    return slots;
}

function prepared(lexicon, row) {
    for (const command of lexicon.card.commands) {
        const slots = fits(row, command.pattern);
        if (slots) return { ...row, slots, told: command.answer || [] };
    }
    for (const query of lexicon.card.queries || []) {
        const slots = fits(row, [query.text.split(" ")[0], ...query.of || []]);
        if (slots) return { ...row, slots, told: query.answer || [] };
    }
    return { ...row, slots: {}, told: [] };
}

/* Made once for each link. */
function rowsOf(lexicon, link) {
    link.rows ||= link.card.layout.rows.map(row => prepared(lexicon, row));
    return link.rows;
}

/* ---- bits ---- */

const bitAt = (i, field) => field.order === "little" ? (i & ~7) + 7 - (i & 7) : field.bits - 1 - i;

const widthOf = fields => fields.reduce((n, f) => n + (f.bits || 0), 0);

/* The check of a field over these bytes. */
function checkOf(field, bytes) {
    const top = 2 ** field.bits;
    if (field.is === "xor") return bytes.reduce((x, b) => x ^ b, 0);
    if (field.is === "sum") {
        const sum = bytes.reduce((n, b) => n + b, 0);
        return ((field.form === "inverted" ? ~sum : field.form === "negated" ? -sum : sum) % top + top) % top;
    }
    const { polynomial, start, final_xor, reflected } = field.check, all = top - 1;
    let sum = start;
    for (const byte of bytes)
        for (let i = 0; i < 8; i++) {
            const out = (sum >> field.bits - 1 & 1) !== (byte >> (reflected ? i : 7 - i) & 1);
            sum = sum << 1 & all;
            if (out) sum ^= polynomial;
        }
    if (reflected) sum = parseInt(sum.toString(2).padStart(field.bits, "0").split("").reverse().join(""), 2);
    return sum ^ final_xor;
}

class Bits {
    constructor(bytes = []) {
        this.bytes = bytes;
        this.done = 0;
        this.checked = 0;
    }

    get covered() {
        return this.bytes.slice(this.checked, this.done >> 3);
    }

    put(field, value) {
        const whole = ((value % 2 ** field.bits) + 2 ** field.bits) % 2 ** field.bits;
        for (let i = 0; i < field.bits; i++, this.done++) {
            if (!(this.done & 7)) this.bytes.push(0);
            if (Math.floor(whole / 2 ** bitAt(i, field)) & 1) this.bytes[this.done >> 3] |= 0x80 >> (this.done & 7);
        }
    }

    take(field) {
        let value = 0;
        for (let i = 0; i < field.bits; i++, this.done++)
            if (this.bytes[this.done >> 3] & 0x80 >> (this.done & 7)) value += 2 ** bitAt(i, field);
        return field.signed && value >= 2 ** (field.bits - 1) ? value - 2 ** field.bits : value;
    }
}

function writeFields(bits, fields, body, said) {
    for (const f of fields) {
        if (f.is === "body") writeFields(bits, body, [], said);
        else if (f.is === "checked") bits.checked = bits.done >> 3;
        else bits.put(f, f.is === "constant" ? f.constant : f.is === "value" ? said.values[f.slot]
                       : f.is === "number" ? said.number : f.is === "length" ? said.length - f.uncounted
                       : f.is === "unused" ? 0 : checkOf(f, bits.covered));
    }
}

/* False: these bytes are something else. */
function readFields(bits, fields, body, got) {
    for (const f of fields) {
        if (f.is === "body") {
            if (!readFields(bits, body, [], got)) return false;
            continue;
        }
        if (f.is === "checked") {
            bits.checked = bits.done >> 3;
            continue;
        }
        const wanted = f.is === "constant" ? f.constant : f.is === "length" ? got.length - f.uncounted
                     : ["sum", "xor", "crc"].includes(f.is) ? checkOf(f, bits.covered) : null;
        const value = bits.take(f);
        if (wanted !== null && value !== wanted) return false;
        if (f.is === "value") got.values[f.slot] = { value, field: f };
        else if (f.is === "number" || f.is === "result") got[f.is] = value;
    }
    return true;
}

/* ---- framing ---- */

function stuffed(bytes) {
    return [FLAG, ...bytes.flatMap(b => b === FLAG || b === ESCAPE ? [ESCAPE, b ^ 0x20] : [b]), FLAG];
}

function unstuffed(bytes) {
    const out = [];
    for (let i = 0; i < bytes.length; i++) out.push(bytes[i] === ESCAPE ? bytes[++i] ^ 0x20 : bytes[i]);
    return out;
}

/* Consistent overhead byte stuffing: up to 254 bytes a frame. */
function folded(bytes) {
    const out = [1];
    let code = 0;
    for (const b of bytes) {
        if (b) {
            out.push(b);
            out[code]++;
        } else {
            code = out.length;
            out.push(1);
        }
    }
    return [...out, 0];
}

function unfolded(bytes) {
    const out = [];
    for (let i = 0; i < bytes.length;) {
        const code = bytes[i];
        if (!code) return [];
        out.push(...bytes.slice(i + 1, i + code));
        i += code;
        if (i < bytes.length) out.push(0);
    }
    return out;
}

/* What a frame is without what its framing puts around it. */
function unwrapped(link, bytes) {
    return link.card.frame === "stuffed" ? unstuffed(bytes) : link.card.frame === "cobs" ? unfolded(bytes) : bytes;
}

/* ---- both ways ---- */

/* The values of a text by this row; null: it is another one, or a value is beyond its field. */
function valuesOf(row, text) {
    const pieces = row.text.split(" "), words = text.split(" "), values = {};
    if (row.event || pieces.length !== words.length) return null;
    for (const [i, piece] of pieces.entries()) {
        const named = SLOT.exec(piece), slot = named && row.slots[named[1]];
        if (!named) {
            if (piece !== words[i]) return null;
            continue;
        }
        const field = row.fields.find(f => f.slot === slot.name);
        let value = slotNumber(slot, words[i]);
        if (!Number.isFinite(value) || value < lowOf(slot) || value > highOf(slot)) return null;
        if (field.from !== undefined) value = between(value, lowOf(slot), highOf(slot), field.from, field.to);
        const least = field.signed ? -(2 ** (field.bits - 1)) : 0;
        if (value < least || value >= least + 2 ** field.bits) return null;
        values[slot.name] = value;
    }
    return values;
}

/* The bytes of a command, {bytes, row}; null: the link has no row for it. */
function layoutBytes(lexicon, link, text, number) {
    for (const row of rowsOf(lexicon, link)) {
        const values = valuesOf(row, text);
        if (!values) continue;
        const bits = new Bits(), { frame } = link.card.layout;
        writeFields(bits, frame, row.fields, { values, number, length: (widthOf(frame) + widthOf(row.fields)) / 8 });
        return { row, bytes: link.card.frame === "stuffed" ? stuffed(bits.bytes)
                           : link.card.frame === "cobs" ? folded(bits.bytes) : bits.bytes };
    }
    return null;
}

/* What stands at the beginning of these bytes, {text, used}; null: nothing that is known. `asked`: the
 * text, row and number of the command that waits for its answer, or null. */
function layoutText(lexicon, link, bytes, asked) {
    const { answer, event } = link.card.layout;
    const read = (fields, body) => {
        const used = (widthOf(fields) + widthOf(body)) / 8;
        const got = { values: {}, length: used, number: asked && asked.number, result: 0 };
        return fields.length && bytes.length >= used && readFields(new Bits(bytes), fields, body, got) ? { ...got, used } : null;
    };
    if (asked) {
        const plain = read(answer, []), valued = asked.row.answers.length && read(answer, asked.row.answers);
        if (plain && plain.number === asked.number && (plain.result || !asked.row.answers.length))
            return { text: plain.result ? `e${plain.result}` : "ok", used: plain.used };
        if (valued && valued.number === asked.number && !valued.result) {
            const told = asked.row.told.map(slot => {
                const { value, field } = valued.values[slot.name];
                return slotText(slot, field.from === undefined ? value
                                    : between(value, field.from, field.to, lowOf(slot), highOf(slot)));
            });
            if (!told.includes(null))
                return { text: ["ok", asked.text.replace("?", ""), ...told].join(" "), used: valued.used };
        }
    }
    for (const row of rowsOf(lexicon, link)) {
        const got = row.event && read(event, row.fields);
        if (got) return { text: row.text, used: got.used };
    }
    return null;
}
