"""Slows down whoever guesses at the door: each wrong try makes a name, and an address, wait longer for the next.

A name and an address are counted apart: many names tried from one place are slowed as one name tried from many is. Who
has signed in from an address before does not wait there for what others guess at their name.
"""

import unicodedata
from dataclasses import dataclass
from datetime import timedelta
from hashlib import sha256
from math import ceil

from django.conf import settings
from django.db import transaction
from django.db.models import F
from django.http import HttpRequest
from django.utils import timezone

from percorso_server.workshop.models import KnownAddress, WrongTries

FORGOTTEN_AFTER = timedelta(hours=1)  # without another wrong try


@dataclass(frozen=True)
class Patience:
    """How many wrong tries are free, and the longest wait after more, s; it doubles with each."""

    free: int
    longest_s: float

    def wait_s(self, wrong: int) -> float:
        """How long to wait after so many wrong tries, s."""
        return 0.0 if wrong < self.free else float(min(2.0 ** min(wrong - self.free, 20), self.longest_s))


OF_NAMES = Patience(free=5, longest_s=300)
OF_ADDRESSES = Patience(free=20, longest_s=60)


def canonical(name: str) -> str:
    """A sign-in name as it is kept: the database takes names for the same that end in spaces or not."""
    return unicodedata.normalize("NFKC", name).strip()


def seconds_to_wait(request: HttpRequest, name: str) -> int:
    """How long this name, or whoever is at this address, has to wait before the next try, s; 0: not at all."""
    now, longest = timezone.now(), 0.0
    patience = _patience(request, name)
    if KnownAddress.objects.filter(of=_known(request, name)).exists():
        del patience[_key("name", name)]
    for tries in WrongTries.objects.filter(of__in=patience, last_at__gt=now - FORGOTTEN_AFTER):
        over = tries.last_at + timedelta(seconds=patience[tries.of].wait_s(tries.count))
        longest = max(longest, (over - now).total_seconds())
    return ceil(longest)


def count_wrong_try(request: HttpRequest, name: str) -> None:
    """Remember a wrong try, of its name and of its address; those that are forgotten begin anew."""
    now = timezone.now()
    with transaction.atomic():
        WrongTries.objects.filter(last_at__lte=now - FORGOTTEN_AFTER).delete()
        for of in _patience(request, name):
            WrongTries.objects.get_or_create(of=of, defaults={"last_at": now})
            WrongTries.objects.filter(of=of).update(count=F("count") + 1, last_at=now)


def welcome(request: HttpRequest, name: str) -> None:
    """Forget the wrong tries of a name that has come in, and remember from where."""
    WrongTries.objects.filter(of=_key("name", name)).delete()
    KnownAddress.objects.update_or_create(of=_known(request, name), defaults={"last_at": timezone.now()})


def _known(request: HttpRequest, name: str) -> str:
    return _key("known", f"{name} {address_of(request)}")


def _patience(request: HttpRequest, name: str) -> dict[str, Patience]:
    return {_key("name", name): OF_NAMES, _key("address", address_of(request)): OF_ADDRESSES}


def _key(kind: str, text: str) -> str:
    """What a name or an address is counted under: nothing that says who it is."""
    return sha256(f"{kind} {text.casefold()}".encode()).hexdigest()


def address_of(request: HttpRequest) -> str:
    """Where a request comes from: as the nearest of our own proxies saw it, or the peer itself without any."""
    passed = [each.strip() for each in request.headers.get("X-Forwarded-For", "").split(",") if each.strip()]
    if settings.PROXIES and len(passed) >= settings.PROXIES:
        return passed[-settings.PROXIES]
    return str(request.META.get("REMOTE_ADDR", ""))
