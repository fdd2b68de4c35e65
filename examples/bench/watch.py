#!/usr/bin/env python3
"""watch.py ADDRESS [COMMAND...]: a board of `rlx serve --web`, from another language. It prints what happens for two
seconds. A command is 'say LINK TEXT' or 'tool LINE'. Nothing but Python: a WebSocket is a few bytes before each text."""
import base64, json, os, signal, socket, struct, sys
from urllib.parse import urlsplit

where = urlsplit(sys.argv[1])
line = socket.create_connection((where.hostname, where.port))
key = base64.b64encode(os.urandom(16)).decode()
line.sendall(f"GET /bench?{where.query} HTTP/1.1\r\nHost: {where.netloc}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
             f"Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: {key}\r\n\r\n".encode())
stream = line.makefile("rb")
if b" 101 " not in stream.readline():
    sys.exit("refused: is the address the one that rlx serve printed?")
while stream.readline() != b"\r\n":
    pass


def send(message):
    text, mask = json.dumps(message).encode(), os.urandom(4)  # each byte goes out masked: RFC 6455, 5.3
    head = struct.pack("!BBH", 0x81, 0x80 | 126, len(text)) if len(text) > 125 else bytes([0x81, 0x80 | len(text)])
    line.sendall(head + mask + bytes(b ^ mask[i % 4] for i, b in enumerate(text)))


def messages():
    while True:
        kind, size = stream.read(2)
        size = struct.unpack("!H", stream.read(2))[0] if size == 126 else struct.unpack("!Q", stream.read(8))[0] if size == 127 else size
        text = stream.read(size)
        if kind & 15 == 1:
            yield json.loads(text)


def show(t, what, rest):
    print(f"{t:8.3f} s  {what:9} {rest}", flush=True)


signal.signal(signal.SIGALRM, lambda *_: sys.exit())
signal.alarm(2)
for m in messages():
    if m["is"] == "bench":
        for command in sys.argv[2:]:
            verb, rest = command.split(" ", 1)
            send({"do": "tool", "line": rest} if verb == "tool" else dict(zip(("do", "over", "text"), ("say", *rest.split(" ", 1)))))
        send({"do": "pace", "speed": 1})
    elif m["is"] == "text":
        show(m["t"], m["what"], f"{m['who']:9} {m['text']}")
    elif m["is"] == "states":
        for name, s in m["states"].items():
            show(m["t"], name, s.get("state", "on" if s.get("on") else "off") + (f", looks like {s['looks']} %" if s.get("looks") else ""))
    elif m["is"] == "wrong":
        print(m["what"], m["why"])
