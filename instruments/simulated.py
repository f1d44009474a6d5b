"""The simulated instruments on a loopback port: one line asked, one line answered.

Run by ./start; `python -m instruments.simulated PORT` runs it alone.
"""

from __future__ import annotations

import random
import socketserver
import sys

from axle.simulator.instruments import answer

_LONGEST_LINE = 200


class Conversation(socketserver.StreamRequestHandler):
    """One connection: answers each line until the other side hangs up."""

    timeout = 30

    def handle(self) -> None:
        """Answer lines."""
        source = random.Random()  # noqa: S311 - noise of an instrument, not a secret
        while line := self.rfile.readline(_LONGEST_LINE):
            reply = answer(line.decode("ascii", "replace").strip(), source)
            self.wfile.write(f"{reply}\n".encode("ascii", "replace"))


class Server(socketserver.ThreadingTCPServer):
    """The instruments' server."""

    allow_reuse_address = True
    daemon_threads = True


def main() -> None:
    """Serve on the port that the command names."""
    with Server(("127.0.0.1", int(sys.argv[1])), Conversation) as server:
        server.serve_forever()


if __name__ == "__main__":
    main()
