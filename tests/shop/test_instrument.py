"""The instrument's client against a good peer and a hostile one."""

from __future__ import annotations

import contextlib
import socket
import socketserver
import threading

import pytest

from axle.errors import AxleError
from axle.procedure.stations import kind_named
from instruments.simulated import Conversation, Server
from shop.instruments import line as instrument


@contextlib.contextmanager
def peer(handler, settings):
    with Server(("127.0.0.1", 0), handler) as server:
        settings.LASH_INSTRUMENT = f"127.0.0.1:{server.server_address[1]}"
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield
        server.shutdown()


def saying(reply: bytes):
    class Handler(socketserver.StreamRequestHandler):
        def handle(self):
            self.rfile.readline()
            self.wfile.write(reply)

    return Handler


def test_a_reading_comes_with_its_unit(settings):
    with peer(Conversation, settings):
        taken = instrument.take(kind_named("backlash"), 2)
    assert taken.unit.symbol == "in"
    assert 0.007 < float(taken.value) < 0.011


@pytest.mark.parametrize(
    ("reply", "said"),
    [
        (b"", "instrument: no answer was given"),
        (b"VALUE 0.009", "no answer was given"),
        (b"VALUE 0.009\n", "the answer “VALUE 0.009” was given"),
        (b"VALUE 22 in-lb\n", "a reading in in·lb was given; a length is wanted"),
        (b"VALUE nine in\n", "instrument"),
        (b"VALUE 9 furlong\n", "the unit “furlong” was given"),
        (b"ERROR probe lifted\n", "“probe lifted” was given"),
        (b"\x00\xff" * 300 + b"\n", "the answer “����"),
        (b"HTTP/1.1 200 OK\r\n", "the answer “HTTP/1.1 200 OK” was given"),
    ],
)
def test_a_hostile_peer_is_said_and_nothing_is_kept(settings, reply, said):
    with peer(saying(reply), settings), pytest.raises(AxleError) as refused:
        instrument.take(kind_named("backlash"), 1)
    assert said in str(refused.value)


def test_no_peer_is_said(settings):
    with socket.create_server(("127.0.0.1", 0)) as closed:
        port = closed.getsockname()[1]
    settings.LASH_INSTRUMENT = f"127.0.0.1:{port}"
    with pytest.raises(AxleError, match="a connected instrument that is switched on"):
        instrument.take(kind_named("backlash"), 1)


def test_the_page_offers_take_only_where_there_is_an_instrument(client, owner, settings):
    client.force_login(owner)
    settings.LASH_INSTRUMENT = ""
    assert "NumpadMultiply" not in client.get("/jobs/412/").content.decode()
    with peer(Conversation, settings):
        assert "NumpadMultiply" in client.get("/jobs/412/").content.decode()
        taken = client.get("/jobs/412/take", {"kind": "backlash", "place": "2"}).content.decode()
    assert 'name="instrument" value="simulated bench set"' in taken
    lost = client.get("/jobs/412/take", {"kind": "backlash", "place": "2", "value": "9.3"}).content.decode()
    assert 'value="9.3"' in lost
    assert "no answer was given" in lost
