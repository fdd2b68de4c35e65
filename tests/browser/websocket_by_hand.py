"""A WebSocket (RFC 6455) by hand, which sends what no browser would."""
import base64, json, socket


def open_socket(where, path, more=""):
    """The status, the socket, and its stream."""
    host = where[len("http://"):].split("/")[0]
    name, port = host.split(":")
    line = socket.create_connection((name, int(port)), timeout=10)
    key = base64.b64encode(b"0123456789abcdef").decode()
    line.sendall(f"GET {path} HTTP/1.1\r\nHost: {host}\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n"
                 f"Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: {key}\r\n{more}\r\n".encode())
    stream = line.makefile("rb")
    status = int(stream.readline().split()[1])
    while stream.readline() != b"\r\n":
        pass
    return status, line, stream


def send(line, text):
    data = text if isinstance(text, bytes) else json.dumps(text).encode()
    head = bytes([0x81, 0x80 | len(data)]) if len(data) < 126 else b"\x81\xfe" + len(data).to_bytes(2, "big")
    line.sendall(head + b"\0\0\0\0" + data)


def answer(stream, *kinds):
    """The next message of these kinds; pings and others come, too."""
    while True:
        kind, n = stream.read(2)
        n = int.from_bytes(stream.read(2), "big") if n == 126 else int.from_bytes(stream.read(8), "big") if n == 127 else n
        data = stream.read(n)
        message = json.loads(data) if kind & 15 == 1 else {"is": "ping"}
        if message["is"] in kinds:
            return message


def connect(where, path):
    """A function that sends, and returns the next message of a kind."""
    status, line, stream = open_socket(where, path)
    assert status == 101, status

    def ask(text, *kinds):
        send(line, text)
        return answer(stream, *kinds)
    return ask
