"""An authority of one's own for TLS in the hall: phones that trust its root get everything that browsers keep for TLS.

Its key never leaves the folder. The root may sign for addresses of local networks (and the machine's own) and for no names.
"""

from __future__ import annotations

import ipaddress
import os
import socket
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

ROOT_DAYS = 3650
SERVER_DAYS = 390
"""Phones refuse certificates of servers that are valid for longer than 398 days."""
RENEW_DAYS = 30
LOCAL_NETWORKS = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "127.0.0.0/8", "169.254.0.0/16", "100.64.0.0/10")


@dataclass(frozen=True, kw_only=True)
class Papers:
    """The files of a server that speaks TLS, and the root that phones are to trust."""

    root: Path
    certificate: Path
    key: Path


def own_address() -> str:
    """This machine's address in the hall's network, or loopback where it is in none. Nothing is sent."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("10.255.255.255", 1))
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


def papers(folder: Path, addresses: Sequence[str]) -> Papers:
    """The authority's root, made once, and a certificate for the addresses, made anew when it runs out or they change."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    found = Papers(root=folder / "root.crt", certificate=folder / "server.crt", key=folder / "server.key")
    if not (found.root.is_file() and (folder / "root.key").is_file() and _covers(found.root, addresses)):
        _make_root(folder, addresses)
        found.certificate.unlink(missing_ok=True)
    if not _serves(found, addresses):
        _make_server(folder, found, addresses)
    return found


def _covers(root: Path, addresses: Sequence[str]) -> bool:
    """Whether the root may sign for all addresses: of a hall with addresses of the open internet it was made for those alone."""
    certificate = x509.load_pem_x509_certificate(root.read_bytes())
    constraints = certificate.extensions.get_extension_for_class(x509.NameConstraints).value
    networks = [name.value for name in constraints.permitted_subtrees or () if isinstance(name, x509.IPAddress)]
    return all(_within(address, [str(network) for network in networks]) for address in addresses)


def _within(address: str, networks: Sequence[str]) -> bool:
    return any(ipaddress.ip_address(address) in ipaddress.ip_network(network) for network in networks)


def _serves(found: Papers, addresses: Sequence[str]) -> bool:
    if not (found.certificate.is_file() and found.key.is_file()):
        return False
    certificate = x509.load_pem_x509_certificate(found.certificate.read_bytes())
    names = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    told = {str(address) for address in names.get_values_for_type(x509.IPAddress)}
    return set(addresses) <= told and certificate.not_valid_after_utc > datetime.now(UTC) + timedelta(days=RENEW_DAYS)


def _make_root(folder: Path, addresses: Sequence[str]) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Lacertus on {socket.gethostname()[:40]}")])
    networks = [*LOCAL_NETWORKS, *(address for address in addresses if not _within(address, LOCAL_NETWORKS))]
    constraints = x509.NameConstraints(
        permitted_subtrees=[x509.IPAddress(ipaddress.ip_network(network)) for network in networks],
        excluded_subtrees=[x509.DNSName("")],
    )
    usage = _usage(signs=True)
    built = (
        _builder(name, name, key.public_key(), ROOT_DAYS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(constraints, critical=True)
        .add_extension(usage, critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )
    _write(folder / "root.key", _key_bytes(key))
    _write(folder / "root.crt", built.public_bytes(serialization.Encoding.PEM))


def _make_server(folder: Path, found: Papers, addresses: Sequence[str]) -> None:
    signer = serialization.load_pem_private_key((folder / "root.key").read_bytes(), None)
    assert isinstance(signer, ec.EllipticCurvePrivateKey)
    root = x509.load_pem_x509_certificate(found.root.read_bytes())
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Lacertus")])
    names = [x509.IPAddress(ipaddress.ip_address(address)) for address in dict.fromkeys((*addresses, "127.0.0.1"))]
    built = (
        _builder(name, root.subject, key.public_key(), SERVER_DAYS)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), critical=False)
        .sign(signer, hashes.SHA256())
    )
    _write(found.key, _key_bytes(key))
    _write(found.certificate, built.public_bytes(serialization.Encoding.PEM))


def _builder(name: x509.Name, issuer: x509.Name, key: ec.EllipticCurvePublicKey, days: int) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(issuer)
        .public_key(key)
        .serial_number(x509.random_serial_number())
        # A phone's clock may be a little behind.
        .not_valid_before(now - timedelta(hours=12))
        .not_valid_after(now + timedelta(days=days))
    )


def _usage(signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs, content_commitment=False, key_encipherment=False, data_encipherment=False, key_agreement=False,
        key_cert_sign=signs, crl_sign=signs, encipher_only=False, decipher_only=False,
    )  # fmt: skip


def _key_bytes(key: ec.EllipticCurvePrivateKey) -> bytes:
    none = serialization.NoEncryption()
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, none)


def _write(path: Path, content: bytes) -> None:
    part = path.with_name(f"{path.name}.part")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(content)
    part.replace(path)
