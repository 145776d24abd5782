"""The certificate of the guests' door: made on the spot and kept, or the school's own."""

import datetime
import ipaddress
import os
import ssl
from collections.abc import Sequence
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from cartouche.store.errors import CannotSave
from cartouche.web.guests.errors import CertificateUnusable

VALID_FOR = datetime.timedelta(days=397)  # browsers refuse server certificates that hold for longer
RENEW_BEFORE = datetime.timedelta(days=14)
NAME = "Cartouche on the teacher’s computer"


def tls_context(folder: Path, addresses: Sequence[str], own: tuple[Path, Path] | None) -> ssl.SSLContext:
    """own: certificate chain and key of the school.  Raises CertificateUnusable, CannotSave."""
    chain, key = own or kept(folder, addresses)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.minimum_version = ssl.TLSVersion.TLSv1_2
    try:
        context.load_cert_chain(chain, key, password=_no_password)
    except (OSError, ValueError) as exc:
        raise CertificateUnusable(
            str(chain), "its key does not fit or is locked" if chain.exists() and key.exists() else "it is not there"
        ) from exc
    return context


def _no_password() -> str:
    raise ValueError("the key is locked with a password")


def kept(folder: Path, addresses: Sequence[str]) -> tuple[Path, Path]:
    """Certificate and key in the data folder; made anew only when the kept one does not serve these addresses any more.

    A phone that has accepted it once must not be asked again.
    """
    chain, key = folder / "guests-certificate.pem", folder / "guests-key.pem"
    if not (key.exists() and _serves(chain, addresses)):
        try:
            _write(chain, key, *_make(addresses))
        except OSError as exc:
            raise CannotSave((exc.strerror or str(exc)).lower()) from exc
    return chain, key


def _serves(chain: Path, addresses: Sequence[str]) -> bool:
    try:
        held = x509.load_pem_x509_certificate(chain.read_bytes())
        names = held.extensions.get_extension_for_class(x509.SubjectAlternativeName).value.get_values_for_type(x509.IPAddress)
    except (OSError, ValueError, x509.ExtensionNotFound):
        return False
    lasts = held.not_valid_after_utc - datetime.datetime.now(datetime.UTC) > RENEW_BEFORE
    return lasts and {ipaddress.ip_address(address) for address in addresses} <= set(names)


def _make(addresses: Sequence[str]) -> tuple[bytes, bytes]:
    """A self-signed server certificate (RFC 5280) over P-256 for these addresses, and its key; both PEM."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, NAME)])
    now = datetime.datetime.now(datetime.UTC)
    names = x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address(address)) for address in addresses])
    builder = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(hours=1))  # a phone's clock may be a little behind
        .not_valid_after(now + VALID_FOR)
        .add_extension(names, critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(key, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    secret = key.private_bytes(pem, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    return builder.public_bytes(pem), secret


def _write(chain: Path, key: Path, chain_pem: bytes, key_pem: bytes) -> None:
    """The key can be read by its owner alone, from its first byte on."""
    for path, content, mode in ((key, key_pem, 0o600), (chain, chain_pem, 0o644)):
        arriving = path.with_suffix(".new")
        arriving.unlink(missing_ok=True)
        with os.fdopen(os.open(arriving, os.O_WRONLY | os.O_CREAT | os.O_EXCL, mode), "wb") as file:
            file.write(content)
        os.replace(arriving, path)
