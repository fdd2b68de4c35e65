/* Frames: what stands around a command on a link, and what ends it.
 * The envelope and its check are those of docs/lexicon.md, "Address, tag and check".
 * Nothing here waits, and nothing here knows what a command means. */
const TAG_OPENS = 16384, TAG_MOST = 32767, CRC_START = 0xffff, LINE_ENDS = [13, 10, 0];
const REPLY_LEAD = 60; /* '<' before each answer on a link of keys and codes */

const bytesOf = text => Array.from(new TextEncoder().encode(text));
const textOf = bytes => new TextDecoder().decode(Uint8Array.from(bytes));

/* CRC-16, polynomial 0x1021, not reflected. */
function crcOf(crc, bytes) {
    for (const byte of bytes) {
        crc ^= byte << 8;
        for (let i = 0; i < 8; i++) crc = (crc & 0x8000 ? crc << 1 ^ 0x1021 : crc << 1) & 0xffff;
    }
    return crc;
}

const crcCharacters = crc => [12, 8, 4, 0].map(shift => 0x40 + (crc >> shift & 15));

/* The bytes of a key or code for this text, its digits in the place of the '#'; null: there is
 * none. */
function keyFor(keys, text) {
    for (const [code, says] of keys) {
        if (!code.includes("#")) {
            if (says === text) return bytesOf(code);
            continue;
        }
        const digits = code.split("#").length - 1, [head, tail] = says.split(/#+/);
        const middle = text.slice(head.length, text.length - tail.length);
        if (!text.startsWith(head) || !text.endsWith(tail) || !/^\d+$/.test(middle)) continue;
        const number = String(Number(middle)).padStart(digits, "0");
        if (number.length > digits) continue;
        let at = 0;
        return bytesOf(code.replace(/#/g, () => number[at++]));
    }
    return null;
}

/* A frame of this link: {bytes, sum}, or {why} where there is none. */
function frameOf(link, text, { from, tag }) {
    const { card } = link;
    if (link.keyed) {
        const key = keyFor(link.keys, text);
        if (!key && !card.lead) return { why: `this link has no key for "${text}"` };
        return { bytes: key || [...card.lead, ...bytesOf(text), 13], sum: CRC_START };
    }
    let around = "", sum = CRC_START;
    if (card.address !== undefined) around += `@${card.address}${card.senders ? `/${from}` : ""} `;
    if (card.tags) around += `#${tag} `;
    let bytes = bytesOf(around + text);
    if (card.check) {
        sum = crcOf(CRC_START, bytes);
        bytes = [...bytes, 42, ...crcCharacters(sum)];
    }
    if (card.end) bytes.push(...card.end);
    while (link.piece && bytes.length % link.piece) bytes.push(0);
    const most = card.length || card.payload;
    if (most && bytes.length > most)
        return { why: `${bytes.length} bytes, but the link's frames hold ${most}` };
    while (card.length && bytes.length < card.length) bytes.push(card.pad[0]);
    return { bytes, sum };
}

/* Puts frames together from what a link brings; `over` gets the bytes of each. */
class Collector {
    constructor(link, over) {
        this.link = link;
        this.over = over;
        this.begun = [];
    }

    take(bytes) {
        const { card, packet, piece, keyed } = this.link;
        const ready = card.layout && card.frame === "gap"; /* each is known by its bytes, however they come */
        if ((packet && !piece) || ready) {
            this.over(Array.from(bytes));
            return;
        }
        const ends = card.frame === "stuffed" ? [FLAG] : card.frame === "cobs" ? [0]
                   : card.end && card.frame === "ended" ? card.end
                   : card.end || keyed ? LINE_ENDS : [];
        for (const byte of bytes) {
            if (ends.includes(byte)) this.end();
            else this.begun.push(byte);
            if (card.length && this.begun.length === card.length) this.end();
            if (this.begun.length > 1024) this.drop();
        }
        clearTimeout(this.gap);
        if (card.gap_ms && !ends.length && this.begun.length)
            this.gap = setTimeout(() => card.length ? this.drop() : this.end(), card.gap_ms + 30);
    }

    end() {
        let bytes = this.begun;
        const { card, keyed } = this.link;
        this.begun = [];
        if (card.length) {
            let n = bytes.length;
            while (n && bytes[n - 1] === card.pad[0]) n--;
            bytes = bytes.slice(0, n);
        }
        if (keyed) {
            if (bytes[0] !== REPLY_LEAD) return;
            bytes = bytes.slice(1);
        }
        if (bytes.length) this.over(bytes);
    }

    drop() {
        this.begun = [];
    }
}

/* A frame of the device without what stands around it: {text, tag, own}, {damaged}, or null: it is for
 * somebody else. `own`: it can be the answer to the frame that was sent last, whose check is `sum`. */
function unframe(link, bytes, { from, sum }) {
    const { card } = link;
    let n = bytes.length, tag = 0, own = true;
    while (n && [32, 13, 10, 0].includes(bytes[n - 1])) n--;
    bytes = bytes.slice(0, n);
    if (card.check) {
        const body = bytes.slice(0, -5), given = bytes.slice(-5).join();
        const fits = start => [42, ...crcCharacters(crcOf(start, body))].join() === given;
        own = n > 5 && fits(card.tags ? sum : CRC_START);
        if (!own && !(n > 5 && fits(CRC_START))) return { damaged: true };
        bytes = body;
    }
    let text = textOf(bytes), all = false;
    if (card.address !== undefined) {
        const to = /^@(\*|\d+)\/(\d+) /.exec(text);
        if (!to || Number(to[2]) !== card.address) return null;
        all = to[1] === "*";
        if (!all && Number(to[1]) !== (card.senders ? from : 0)) return null;
        text = text.slice(to[0].length);
    }
    if (card.tags) {
        const tagged = /^#(\d+) /.exec(text);
        if (tagged) {
            tag = Number(tagged[1]);
            text = text.slice(tagged[0].length);
        }
    }
    return { text, tag, own: own && !all };
}
