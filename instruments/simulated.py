"""The simulated instruments on a loopback port: one line asked, one line answered.

Run by ./start; `python -m instruments.simulated PORT` runs it alone.
"""

from __future__ import annotations

import random
import socketserver
import sys
import threading

from axle.simulator.instruments import Bench

_LONGEST_LINE = 200


class Conversation(socketserver.StreamRequestHandler):
    """One connection: answers each line until the other side hangs up."""

    timeout = 30
    server: Server

    def handle(self) -> None:
        """Answer lines."""
        talk = self.server.bench.talk()
        while line := self.rfile.readline(_LONGEST_LINE):
            with self.server.hand:
                reply = talk.answer(line.decode("ascii", "replace").strip())
            self.wfile.write(f"{reply}\n".encode("ascii", "replace"))


class Server(socketserver.ThreadingTCPServer):
    """The instruments' server; its instruments keep what was set on them."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, *given: object, **more: object) -> None:
        super().__init__(*given, **more)  # type: ignore[arg-type]
        self.bench = Bench(random.Random())  # noqa: S311 - noise of an instrument, not a secret
        self.hand = threading.Lock()


def main() -> None:
    """Serve on the port that the command names."""
    with Server(("127.0.0.1", int(sys.argv[1])), Conversation) as server:
        server.serve_forever()


if __name__ == "__main__":
    main()
