"""The workshop's authority and what it vouches for, looked at by Python's and OpenSSL's own eyes."""

import http.client
import socket
import ssl
import stat
import subprocess
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from threading import Event

import pytest
from cryptography import x509

from plumb import tls
from plumb.api.papers import Papers
from plumb.api.settings import Settings
from plumb.store.server import ServerTrouble
from tests.conftest import Live
from tests.drivers import DEAD_S

OWN = ["workshop", "workshop.local", "192.168.7.20"]


def openssl(*arguments: str | Path) -> subprocess.CompletedProcess[str]:
    """What OpenSSL's own program says."""
    return subprocess.run(["openssl", *arguments], capture_output=True, text=True, check=False)


def verified(made: Papers, name: str) -> str:
    """OpenSSL's answer whether the server may be called by a name."""
    assert made.authority is not None
    kind = "-verify_ip" if name[0].isdigit() else "-verify_hostname"
    done = openssl(
        "verify", "-x509_strict", "-CAfile", made.authority, kind, name, made.certificate
    )
    return "good" if done.returncode == 0 else done.stdout + done.stderr


def test_openssl_takes_the_server_by_its_names_and_no_other(tmp_path: Path) -> None:
    """By name and by address; a name that it has not is refused."""
    made = tls.papers(tmp_path, OWN, ["127.0.0.1"])
    for name in ("workshop.local", "192.168.7.20", "127.0.0.1"):
        assert verified(made, name) == "good"
    assert "mismatch" in verified(made, "harbour.local")
    shown = openssl("x509", "-in", made.authority or "", "-noout", "-fingerprint", "-sha256")
    assert shown.stdout.strip().partition("=")[2] == made.fingerprint


def test_a_stolen_authority_vouches_for_nothing_outside(tmp_path: Path) -> None:
    """A certificate for a public name, made with its key, is refused by OpenSSL."""
    made = tls.papers(tmp_path, OWN, [])
    authority, key = tls._authority(tmp_path)
    forged = Papers(
        tmp_path / "f.pem", tmp_path / "f.key", made.authority, "", ("harbour.example",)
    )
    tls._server(forged, authority, key)
    assert "permitted subtree violation" in verified(forged, "harbour.example")


@pytest.mark.parametrize("name", ["harbour.example", "203.0.113.7", "local.example"])
def test_a_public_name_takes_a_certificate_of_ones_own(tmp_path: Path, name: str) -> None:
    """Asked for it is refused with what to do; among the machine's own it is left out."""
    with pytest.raises(ServerTrouble, match="PLUMB_TLS_CERT"):
        tls.papers(tmp_path, OWN, [name])
    assert name not in tls.papers(tmp_path, [*OWN, name], []).names


def test_keys_are_their_owners_alone(tmp_path: Path) -> None:
    """Nobody else on the machine reads them."""
    made = tls.papers(tmp_path / "tls", OWN, [])
    for key in (made.key, tmp_path / "tls" / "authority.key"):
        assert stat.S_IMODE(key.stat().st_mode) == 0o600


def serial(path: Path) -> int:
    """Which certificate it is."""
    return x509.load_pem_x509_certificate(path.read_bytes()).serial_number


def test_it_is_made_anew_when_names_change_and_only_then(tmp_path: Path) -> None:
    """The authority stays, so that no tablet has to trust anew."""
    first = tls.papers(tmp_path, OWN, [])
    mine, authority = serial(first.certificate), serial(tmp_path / "authority.pem")
    assert serial(tls.papers(tmp_path, OWN, []).certificate) == mine
    other = tls.papers(tmp_path, [*OWN, "192.168.7.21"], [])
    assert serial(other.certificate) != mine
    assert verified(other, "192.168.7.21") == "good"
    assert serial(tmp_path / "authority.pem") == authority


@pytest.mark.parametrize(("days", "anew"), [(31, False), (29, True), (0, True)])
def test_it_is_made_anew_before_it_is_too_old(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    days: int,
    anew: bool,  # noqa: FBT001  a row of the table
) -> None:
    """Thirty days before its end; never longer than browsers take (398 days)."""
    monkeypatch.setattr(tls, "SERVER_LIVES", timedelta(days=days))
    old = serial(tls.papers(tmp_path, OWN, []).certificate)
    monkeypatch.undo()
    made = tls.papers(tmp_path, OWN, [])
    assert (serial(made.certificate) != old) == anew
    read = x509.load_pem_x509_certificate(made.certificate.read_bytes())
    assert read.not_valid_after_utc - read.not_valid_before_utc <= timedelta(days=398)
    assert read.not_valid_before_utc < datetime.now(UTC)


def test_what_cannot_be_read_is_told(tmp_path: Path) -> None:
    """A damaged authority, a key of another certificate's kind, a file that is not there."""
    tls.papers(tmp_path, OWN, [])
    (tmp_path / "authority.key").write_text("damaged")
    with pytest.raises(ServerTrouble, match="move the folder away"):
        tls.papers(tmp_path, OWN, [])
    with pytest.raises(ServerTrouble, match="PLUMB_TLS_KEY"):
        tls.given(tmp_path / "none.pem", tmp_path / "none.key")


def test_a_certificate_of_ones_own_is_taken(tmp_path: Path) -> None:
    """As OpenSSL makes one; its names are the server's."""
    key, certificate = tmp_path / "k.pem", tmp_path / "c.pem"
    made = openssl(
        "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:P-256", "-nodes", "-keyout", key,
        "-out", certificate, "-days", "9", "-subj", "/CN=harbour", "-addext", "subjectAltName=DNS:harbour.example",
    )  # fmt: skip
    assert made.returncode == 0, made.stderr
    read = tls.given(certificate, key)
    assert read.names == ("harbour.example",)
    assert read.authority is None


def trusting(papers: Papers) -> ssl.SSLContext:
    """A client that trusts the workshop's authority and nobody else."""
    return ssl.create_default_context(cafile=str(papers.authority))


def test_a_client_that_trusts_the_authority_gets_in(workshop: Live, papers: Papers) -> None:
    """Name and chain are checked; every answer says that TLS is to stay (RFC 6797)."""
    line = http.client.HTTPSConnection("localhost", workshop.port, context=trusting(papers))
    for path, status in (("/", 200), ("/trust", 200), ("/api/jobs", 401), ("/none", 200)):
        line.request("GET", path)
        answer = line.getresponse()
        answer.read()
        assert (path, answer.status) == (path, status)
        assert "max-age=31536000" in (answer.headers["strict-transport-security"] or "")
        assert "unsafe-inline" not in (answer.headers["content-security-policy"] or "")
    line.request("GET", "/trust/authority.crt")
    sent = line.getresponse().read()
    assert papers.authority is not None
    assert sent == papers.authority.read_bytes()
    line.close()


def test_who_does_not_trust_it_and_old_tls_are_left_outside(workshop: Live, papers: Papers) -> None:
    """Without the authority, with TLS 1.1, and without TLS nothing is served."""
    with (
        closing(asking(workshop, ssl.create_default_context())) as stranger,
        pytest.raises(ssl.SSLCertVerificationError),
    ):
        stranger.request("GET", "/")
    old = trusting(papers)
    with pytest.warns(DeprecationWarning, match="TLSv1"):
        old.minimum_version = ssl.TLSVersion.TLSv1
    with pytest.warns(DeprecationWarning, match="TLSv1"):
        old.maximum_version = ssl.TLSVersion.TLSv1_1
    old.set_ciphers("ALL:@SECLEVEL=0")
    with closing(asking(workshop, old)) as late, pytest.raises(ssl.SSLError):
        late.request("GET", "/")
    with closing(http.client.HTTPConnection("localhost", workshop.port, timeout=60)) as plain:
        plain.request("GET", "/")
        with pytest.raises((http.client.HTTPException, ConnectionError)):
            plain.getresponse()


def asking(workshop: Live, context: ssl.SSLContext) -> http.client.HTTPSConnection:
    """A client with trust of its own."""
    return http.client.HTTPSConnection("localhost", workshop.port, context=context, timeout=60)


def ended(wire: ssl.SSLSocket) -> bool:
    """Whether the other side hangs up, politely or not."""
    try:
        return wire.recv(10) == b""
    except (ConnectionError, ssl.SSLError):
        return True


def test_a_slow_sender_is_cut_off_over_tls_too(workshop: Live, papers: Papers) -> None:
    """Half a head, and then nothing."""
    half = b"GET /api/jobs HTTP/1.1\r\nhost: local"
    address = ("127.0.0.1", workshop.port)
    with (
        socket.create_connection(address, timeout=60) as raw,
        trusting(papers).wrap_socket(raw, server_hostname="localhost") as wire,
    ):
        wire.sendall(half)
        workshop.looks(came=len(half))
        workshop.looks()
        assert ended(wire)


def test_hosts_of_the_network_are_known() -> None:
    """This machine's own names are, where people sign in; without a network only those that were set."""
    alone, open_ = Settings(hosts="a.local"), Settings(hosts="a.local", network=True)
    assert alone.known_hosts() == {"a.local"}
    assert open_.known_hosts() > {"a.local", socket.gethostname().lower()}


def test_who_does_not_take_leave_is_cut_off(workshop: Live, papers: Papers) -> None:
    """A tablet that sleeps answers no goodbye: its connection must not outlive the server."""
    address = ("127.0.0.1", workshop.port)
    with (
        socket.create_connection(address, timeout=60) as raw,
        trusting(papers).wrap_socket(raw, server_hostname="localhost") as wire,
    ):
        wire.sendall(b"GET /api/health HTTP/1.1\r\nhost: localhost\r\n\r\n")
        assert wire.recv(15) == b"HTTP/1.1 200 OK"
        workshop.stop()
        assert workshop.server is not None
        assert not workshop.server.server_state.connections
        while not ended(wire):  # the rest of the answer, and then the end
            pass


def test_who_was_silent_before_the_end_is_cut_off_too(workshop: Live, papers: Papers) -> None:
    """A connection that was closed for its silence, and answered no goodbye, outlives the server no more than others."""
    with (
        socket.create_connection(("127.0.0.1", workshop.port), timeout=DEAD_S) as raw,
        trusting(papers).wrap_socket(raw, server_hostname="localhost") as wire,
    ):
        wire.sendall(b"GET /api/health HTTP/1.1\r\nhost: localhost\r\n\r\n")
        assert wire.recv(15) == b"HTTP/1.1 200 OK"
        assert workshop.server is not None
        (mine,) = (
            c
            for c in workshop.server.server_state.connections
            if c.wire.getpeername() == wire.getsockname()
        )
        silent = Event()
        mine.loop.call_soon_threadsafe(lambda: (mine.timeout_keep_alive_handler(), silent.set()))
        assert silent.wait(DEAD_S)
        assert mine.wire.fileno() >= 0
        workshop.stop()
        assert mine.wire.fileno() == -1
