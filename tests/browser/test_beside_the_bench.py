"""A phone at the server's address on the network: plain, by a certificate that it was let through,
and by one that it trusts; each does what its page says that it can."""

import base64
import hashlib
import socket

import pytest
from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat
from playwright.sync_api import expect

from haremile.api.guard import Access
from haremile.certificate import own_certificate
from haremile.usecases.access import PAIRING_LIFE, Role
from helpers import AXE, OWNER, serious_faults, served

PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
WAYS = ["plain", "let through", "trusted"]


@pytest.fixture(scope="module")
def elsewhere():
    """An address of this machine that is not loopback."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        try:
            asked.connect(("203.0.113.1", 9))  # nothing is sent
        except OSError:
            pytest.skip("no address but loopback here")
        return asked.getsockname()[0]


@pytest.fixture(params=WAYS)
def way(request):
    return request.param


@pytest.fixture
def phone(way, elsewhere, bench, throwaway_url, tmp_path, browser, flags):
    """A phone on the pairing page, as a scanned code opens it; and the server's address."""
    kept = None if way == "plain" else own_certificate(tmp_path, [elsewhere])
    access = Access(frozenset({elsewhere}))
    secured = None if kept is None else kept.files
    trust = (
        [f"--ignore-certificate-errors-spki-list={_key_of(kept.certificate)}"]
        if way == "trusted"
        else []
    )
    own = browser.browser_type.launch(executable_path="/usr/bin/chromium", args=[*flags, *trust])
    try:
        with served(
            bench, throwaway_url, bench.settings.web, 0, elsewhere, access, secured
        ) as address:
            code = "abcdefghjk"
            bench.access.ensure_person(OWNER, Role.OWN)
            bench.access.new_entry(OWNER, PAIRING_LIFE, code)
            context = own.new_context(**PHONE, ignore_https_errors=way == "let through")
            page = context.new_page()
            page.goto(f"{address}/enter?code={code}")
            yield page, address
    finally:
        own.close()


def _key_of(certificate):
    """The sum of its public key, by which this browser is told to trust it."""
    made = x509.load_pem_x509_certificate(certificate.read_bytes())
    key = made.public_key().public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    return base64.b64encode(hashlib.sha256(key).digest()).decode()


def test_the_sheet_on_a_phone_has_no_serious_fault_and_large_targets(phone, way):
    page, _ = phone
    page.get_by_role("button", name="Sign in").tap()
    expect(page.get_by_role("heading", name="Timing")).to_be_visible()
    page.evaluate(AXE.read_text())
    assert serious_faults(page) == []


def test_a_phone_does_what_its_page_says_it_can(phone, way, bench):
    page, address = phone
    page.get_by_role("button", name="Sign in").tap()
    expect(page).to_have_url(f"{address}/timing")
    page.get_by_label("Who times").fill("Ida")
    page.get_by_label("System").fill("Varrow 12")
    page.get_by_label("Machine").fill("Stick")
    page.get_by_role("button", name="Add it").tap()
    note = page.get_by_role("note").filter(has_text="loaded anew without the network")
    if way == "trusted":
        page.wait_for_function(
            "async () => (await (await caches.open('haremile-timing')).keys()).length > 5"
        )
        expect(note).to_have_count(0)
    else:
        expect(note).to_be_visible()
    assert page.evaluate("window.isSecureContext") == (way != "plain")
    assert page.evaluate("'wakeLock' in navigator") == (way != "plain")
    page.get_by_role("button", name="Varrow 12: mark power on").tap()
    page.context.set_offline(True)
    if way == "trusted":
        page.reload()
        expect(page.get_by_text("the page was loaded anew")).to_be_visible()
    page.get_by_role("button", name="Varrow 12: mark desktop").tap()
    page.get_by_role("button", name="Hand in, and on").tap()
    expect(page.get_by_text("kept here until the server takes them")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_text("Handed in.")).to_be_visible()
    (digest,) = bench.studies.digests()
    assert len(bench.readings.readings(digest.id, "boot.total")) == 1
