"""Somebody who is signed in, over one connection that is kept, for measurements."""

import gzip
import http.client
import json
import urllib.request
from collections.abc import Mapping
from http import HTTPStatus
from http.cookiejar import CookieJar
from typing import Any

from ops.application import Application

SIGN_IN = {"username": "valbruna", "password": "market-van-round"}
GZIP = b"\x1f\x8b"  # what it begins with


def signed_in(application: Application, person: Mapping[str, str] = SIGN_IN) -> dict[str, str]:
    """The cookies of somebody who has just signed in."""
    jar = CookieJar()
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    opener.open(f"{application.address}/api/session").read()
    token = next(cookie.value or "" for cookie in jar if cookie.name == "csrftoken")
    request = urllib.request.Request(
        f"{application.address}/api/session",
        json.dumps(person).encode(),
        {"X-CSRFToken": token, "Content-Type": "application/json"},
    )
    opener.open(request).read()
    return {cookie.name: cookie.value or "" for cookie in jar}


def _headers(application: Application, person: Mapping[str, str]) -> dict[str, str]:
    """Headers of a signed-in person."""
    cookies = signed_in(application, person)
    return {
        "Cookie": "; ".join(f"{name}={value}" for name, value in cookies.items()),
        "X-CSRFToken": cookies["csrftoken"],
        "Content-Type": "application/json",
    }


class Client:
    """One kept-alive connection of somebody who is signed in."""

    def __init__(self, application: Application, person: Mapping[str, str] = SIGN_IN) -> None:
        self.connection = http.client.HTTPConnection("127.0.0.1", application.port)
        self.headers = _headers(application, person) | {"Accept-Encoding": "gzip"}  # as browsers do

    def call(self, method: str, path: str, body: Any = None) -> Any:
        """What the server answers."""
        sent = self.answer(method, path, body)
        return json.loads(gzip.decompress(sent) if sent.startswith(GZIP) else sent)

    def answer(self, method: str, path: str, body: Any = None) -> bytes:
        """What the server sends, as it is. Raises HTTPException for a refusal."""
        data = None if body is None else json.dumps(body)
        self.connection.request(method, f"/api{path}", data, self.headers)
        came = self.connection.getresponse()
        sent = came.read()
        if came.status != HTTPStatus.OK:
            raise http.client.HTTPException(f"{method} {path}: {came.status} {came.reason}")
        return sent
