/* Lines: what carries the bytes. A WebSocket of `rlx serve`, a serial device by the browser's Web
 * Serial, or the phone's own program for text messages (RFC 5724).
 * Each has write(bytes) and close(), and calls opened(), came(bytes) and closed(why).
 * None of them knows frames. */
class SocketLine {
    constructor(address, link, calls) {
        this.link = link;
        this.socket = new WebSocket(address);
        this.socket.binaryType = "arraybuffer";
        this.socket.onopen = () => calls.opened();
        this.socket.onmessage = e => calls.came(new Uint8Array(e.data));
        this.socket.onclose = e => calls.closed(e.wasClean ? "" : `no connection to ${address.replace(/\?.*/, "")}`);
    }

    /* A packet, or each report of a line, is a message. */
    write(bytes) {
        if (this.socket.readyState !== WebSocket.OPEN || this.socket.bufferedAmount > 65536) return false;
        const piece = this.link.piece || bytes.length;
        for (let at = 0; at < bytes.length; at += piece)
            this.socket.send(Uint8Array.from(bytes.slice(at, at + piece)));
        return true;
    }

    close() {
        this.socket.close();
    }
}

class SerialLine {
    static why(link) {
        if (!navigator.serial) return "this browser has no Web Serial";
        return link.card.baud && !link.packet ? "" : "it is no serial line";
    }

    constructor(link, calls) {
        this.calls = calls;
        this.link = link;
        this.begin().catch(e => this.over(e.name === "NotFoundError" ? "" : e.message));
    }

    async begin() {
        const [bits, parity, stops] = this.link.card.format;
        const port = await navigator.serial.requestPort();
        await port.open({
            baudRate: this.link.card.baud, dataBits: Number(bits), stopBits: Number(stops),
            parity: { N: "none", E: "even", O: "odd" }[parity],
        });
        this.port = port;
        this.writer = port.writable.getWriter();
        this.calls.opened();
        while (port.readable && !this.closing) {
            this.reader = port.readable.getReader();
            try {
                for (let part; !(part = await this.reader.read()).done;) this.calls.came(part.value);
            } finally {
                this.reader.releaseLock();
            }
        }
        this.over("");
    }

    write(bytes) {
        if (!this.writer || this.writer.desiredSize <= 0) return false;
        this.writer.write(Uint8Array.from(bytes)).catch(e => this.over(e.message));
        return true;
    }

    async close() {
        this.closing = true;
        if (this.reader) await this.reader.cancel().catch(() => {});
    }

    async over(why) {
        if (this.ended) return;
        this.ended = true;
        this.calls.closed(why);
        if (this.writer) this.writer.releaseLock();
        if (this.port) await this.port.close().catch(() => {});
    }
}

/* Whoever reads the answer is the person: the phone's program shows it. */
class MessageLine {
    constructor(number, calls) {
        this.number = number;
        setTimeout(() => calls.opened());
        this.calls = calls;
    }

    write(bytes) {
        element("a", { href: `sms:${this.number}?body=${encodeURIComponent(textOf(bytes))}` }).click();
        return true;
    }

    close() {
        this.calls.closed("");
    }
}
