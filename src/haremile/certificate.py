"""The server's certificate: one that is given, or one of its own, which others know by its sum."""

import ipaddress
import os
import ssl
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from haremile.errors import BadInputError

LIFE = timedelta(days=800)
LEAST_LEFT = timedelta(days=30)
CERTIFICATE, KEY = "certificate.pem", "certificate.key"


@dataclass(frozen=True)
class Certificate:
    """A certificate and its key, as files; `pin` is the sha256 of the certificate (DER), hex."""

    certificate: Path
    key: Path
    pin: str

    @property
    def files(self) -> dict[str, str]:
        """As uvicorn wants them."""
        return {"ssl_certfile": str(self.certificate), "ssl_keyfile": str(self.key)}


def stated_certificate(certificate: Path, key: Path) -> Certificate:
    """A certificate that somebody gives. Raises BadInputError where it cannot be used."""
    try:
        made = x509.load_pem_x509_certificate(certificate.read_bytes())
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(certificate, key)
    except (OSError, ValueError) as error:  # a wrong key is an SSLError, which is an OSError
        raise BadInputError(f"this certificate and key cannot be used: {error}") from error
    return Certificate(certificate, key, pin_of(made))


def own_certificate(folder: Path, names: Sequence[str]) -> Certificate:
    """The server's own, in its data folder; made anew where it is missing, nearly over, or does not
    hold for one of the names."""
    certificate, key = folder / CERTIFICATE, folder / KEY
    try:
        made = x509.load_pem_x509_certificate(certificate.read_bytes())
        is_good = _holds(made, names) and key.exists()
    except (OSError, ValueError):
        is_good = False
    if not is_good:
        made = _make(certificate, key, names)
    return Certificate(certificate, key, pin_of(made))


def pin_of(certificate: x509.Certificate) -> str:
    """The sha256 by which others know it."""
    return sha256(certificate.public_bytes(serialization.Encoding.DER)).hexdigest()


def _holds(certificate: x509.Certificate, names: Sequence[str]) -> bool:
    if certificate.not_valid_after_utc < datetime.now(UTC) + LEAST_LEFT:
        return False
    known = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return all(_name(one) in list(known) for one in names)


def _name(text: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(text))
    except ValueError:
        return x509.DNSName(text)


def _make(certificate: Path, key: Path, names: Sequence[str]) -> x509.Certificate:
    private = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Hare Mile")])
    now = datetime.now(UTC)
    every = dict.fromkeys([*names, "localhost", "127.0.0.1", "::1"])
    made = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + LIFE)
        .add_extension(x509.SubjectAlternativeName([_name(one) for one in every]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .sign(private, hashes.SHA256())
    )
    certificate.parent.mkdir(parents=True, exist_ok=True)
    body = private.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )
    key.unlink(missing_ok=True)
    handle = os.open(key, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(handle, "wb") as file:
        file.write(body)
    certificate.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return made
