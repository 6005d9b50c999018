"""The workshop's own small authority: it vouches for this one server, and nothing else can be made of it.

Made the first time Plumb opens to the network.  Browsers are told once to trust it (the page ``/trust``);
the server's own certificate is made anew whenever it grows old or the machine's names change, and no
browser notices.  Should its key be stolen, name constraints (RFC 5280, 4.2.1.10) keep it from vouching
for anything that lies outside of a workshop's network.

Sources: RFC 5280; the browsers' common rule of at most 398 days for a server's certificate.
"""

import ipaddress
import os
import socket
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from plumb.api.papers import Papers
from plumb.store.server import ServerTrouble

AUTHORITY_LIVES: Final = timedelta(days=3650)
SERVER_LIVES: Final = timedelta(days=390)
RENEWED_BEFORE: Final = timedelta(days=30)
_SLACK: Final = timedelta(days=1)
"""Certificates hold from so long before they are made: clocks of tablets are slow, and clocks are set back."""
"""Clocks of a workshop go wrong; what begins now began an hour ago."""

_NETWORKS: Final = (
    "10.0.0.0/8", "100.64.0.0/10", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8",
    "::1/128", "fc00::/7", "fe80::/10",
)  # fmt: skip
_ENDINGS: Final = ("localhost", "local", "lan", "home.arpa", "internal")
"""Names that no public server has (RFC 6762, 8375; reserved by ICANN in 2024)."""


def papers(folder: Path, own: Sequence[str], asked: Sequence[str]) -> Papers:
    """Certificate and key, made or renewed where they have to be.

    They are for the names that were ``asked`` for, and for those of the machine's ``own`` that the
    authority may vouch for; a machine may stand in other networks too.  Raises :class:`ServerTrouble` for a name that the authority may not vouch for, and for files that
    cannot be read or written.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        authority, authority_key = _authority(folder)
        names = [n for n in own if _allowed(authority, n)] + _asked(authority, asked)
        made = Papers(
            folder / "server.pem", folder / "server.key", folder / "authority.pem", _seen(authority),
            tuple(dict.fromkeys(names)),
        )  # fmt: skip
        if not _good(made, authority):
            _server(made, authority, authority_key)
    except (OSError, ValueError) as error:
        message = (
            f"the certificates under {folder} cannot be read or written ({error}); put it right, or "
            "move the folder away: a new authority is made, and every tablet has to trust it anew."
        )
        raise ServerTrouble(message) from error
    return made


def _asked(authority: x509.Certificate, names: Sequence[str]) -> list[str]:
    for name in names:
        if not _allowed(authority, name):
            message = (
                f"{name} is no name of a workshop's network, and Plumb's own authority does not vouch "
                "for it. Give a certificate that does (PLUMB_TLS_CERT, PLUMB_TLS_KEY), or take it "
                "from PLUMB_HOSTS."
            )
            raise ServerTrouble(message)
    return list(names)


def given(certificate: Path, key: Path) -> Papers:
    """A certificate of the shop's own.  Raises :class:`ServerTrouble` when it cannot be read."""
    try:
        read = x509.load_pem_x509_certificate(certificate.read_bytes())
        serialization.load_pem_private_key(key.read_bytes(), None)
    except (OSError, ValueError, TypeError) as error:
        message = (
            f"PLUMB_TLS_CERT ({certificate}) and PLUMB_TLS_KEY ({key}) are to be a certificate and its "
            f"key without a passphrase, as PEM: {error}"
        )
        raise ServerTrouble(message) from error
    try:
        named = read.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except x509.ExtensionNotFound:
        named = x509.SubjectAlternativeName([])
    return Papers(certificate, key, None, _seen(read), tuple(str(n.value) for n in named))


def _seen(certificate: x509.Certificate) -> str:
    """The fingerprint as browsers show it: SHA-256, in pairs."""
    return certificate.fingerprint(hashes.SHA256()).hex(":").upper()


def _authority(folder: Path) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    there = folder / "authority.pem", folder / "authority.key"
    if there[0].exists():
        key = serialization.load_pem_private_key(there[1].read_bytes(), None)
        if not isinstance(key, ec.EllipticCurvePrivateKey):
            message = "the authority's key is of another kind"
            raise ValueError(message)
        return x509.load_pem_x509_certificate(there[0].read_bytes()), key
    key = ec.generate_private_key(ec.SECP256R1())
    name = _called(f"Plumb of {socket.gethostname()[:40]}")
    allowed: list[x509.GeneralName] = [x509.DNSName(e) for e in (*_ENDINGS, _host())]
    allowed += [x509.IPAddress(ipaddress.ip_network(n)) for n in _NETWORKS]
    made = (
        _begun(name, name, key.public_key(), AUTHORITY_LIVES)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .add_extension(x509.NameConstraints(allowed, None), critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _write(there[1], _pem(key))
    _write(there[0], made.public_bytes(serialization.Encoding.PEM), mode=0o644)
    return made, key


def _host() -> str:
    return socket.gethostname().lower()


def _server(
    where: Papers, authority: x509.Certificate, authority_key: ec.EllipticCurvePrivateKey
) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    made = (
        _begun(authority.subject, _called(where.names[0][:60]), key.public_key(), SERVER_LIVES)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(
            x509.SubjectAlternativeName([_general(n) for n in where.names]), critical=False
        )
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()),
            critical=False,
        )
        .sign(authority_key, hashes.SHA256())
    )
    _write(where.key, _pem(key))
    chain = made.public_bytes(serialization.Encoding.PEM)
    _write(
        where.certificate, chain + authority.public_bytes(serialization.Encoding.PEM), mode=0o644
    )


def _begun(
    issuer: x509.Name, subject: x509.Name, key: ec.EllipticCurvePublicKey, lives: timedelta
) -> x509.CertificateBuilder:
    at = datetime.now(UTC)
    return (
        x509.CertificateBuilder()
        .issuer_name(issuer)
        .subject_name(subject)
        .public_key(key)
        .serial_number(x509.random_serial_number())
        .not_valid_before(at - _SLACK)
        .not_valid_after(at + lives)
    )


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, key_cert_sign=signs, crl_sign=signs, content_commitment=False,
        key_encipherment=False, data_encipherment=False, key_agreement=False, encipher_only=False,
        decipher_only=False,
    )  # fmt: skip


def _called(name: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)])


def _general(name: str) -> x509.GeneralName:
    """A name or an address, as a certificate has it."""
    try:
        return x509.IPAddress(ipaddress.ip_address(name.strip("[]")))
    except ValueError:
        return x509.DNSName(name)


def _allowed(authority: x509.Certificate, name: str) -> bool:
    """Whether the authority may vouch for a name."""
    limits = authority.extensions.get_extension_for_class(x509.NameConstraints).value
    wanted = _general(name)
    return any(_covers(one, wanted) for one in limits.permitted_subtrees or ())


def _covers(limit: x509.GeneralName, wanted: x509.GeneralName) -> bool:
    if isinstance(limit, x509.DNSName) and isinstance(wanted, x509.DNSName):
        return wanted.value == limit.value or wanted.value.endswith(f".{limit.value}")
    network, address = limit.value, wanted.value
    if isinstance(network, ipaddress.IPv4Network | ipaddress.IPv6Network):
        return isinstance(address, ipaddress.IPv4Address | ipaddress.IPv6Address) and (
            address in network
        )
    return False


def _good(where: Papers, authority: x509.Certificate) -> bool:
    """Whether the server's certificate is there, of this authority, young enough and for its names."""
    if not (where.certificate.exists() and where.key.exists()):
        return False
    read = x509.load_pem_x509_certificate(where.certificate.read_bytes())
    alternative = read.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    if read.not_valid_after_utc - datetime.now(UTC) < RENEWED_BEFORE:
        return False
    try:
        read.verify_directly_issued_by(authority)
    except Exception:  # noqa: BLE001  whatever is wrong with it, a new one is made
        return False
    return {str(g.value) for g in alternative} == {str(_general(n).value) for n in where.names}


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


def _write(path: Path, data: bytes, mode: int = 0o600) -> None:
    """Whole or not at all; a key is its owner's alone from the first byte on."""
    beside = path.with_suffix(path.suffix + ".new")
    beside.unlink(missing_ok=True)
    with os.fdopen(os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL, mode), "wb") as file:
        file.write(data)
    beside.replace(path)
