"""What a server on a desk must refuse.

Sources: OWASP guidance on DNS rebinding (check the Host header) and on cross-site request forgery
(check Origin and Sec-Fetch-Site); RFC 9110 for the headers; RFC 6265 for cookies.
"""

from __future__ import annotations

import hashlib
import hmac
import re
import secrets
from collections.abc import Sequence
from importlib import resources
from urllib.parse import parse_qsl, urlencode, urlsplit

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import URL, Headers, MutableHeaders
from starlette.requests import cookie_parser
from starlette.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from winnow.api.addresses import is_loopback
from winnow.api.desk import now
from winnow.api.entry_codes import Devices, EntryCodes
from winnow.api.problems import Code, response

TOKEN, CODE = "token", "code"
COOKIE_AGE_S = 400 * 24 * 3600
SAFE_METHODS = ("GET", "HEAD")
PROPOSING = re.compile(r"/api/shoots/\d+/(marks|keep-lead|undo|redo|look|here)")
"""What somebody who proposes may ask for, besides looking."""
OWNERS = re.compile(r"/api/(settings|upkeep/.*|editors|entry(/.*)?)")
"""Addresses that change Winnow itself: devices may not use them."""
ONLY_THE_OWNER = "Only whoever runs Winnow can change this, at the machine that it runs on."
ONLY_PROPOSES = "What you mark here is a proposal: this is for whoever runs Winnow."

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; "
    "img-src 'self' blob:; connect-src 'self'; base-uri 'none'; form-action 'none'; "
    "frame-ancestors 'none'"
)


def cookie_of(token: str) -> str:
    """The name of the cookie: cookies do not tell ports apart, and two servers must not take each other's away."""
    return f"winnow-{hashlib.sha256(token.encode()).hexdigest()[:12]}"


class Guard:
    """Lets through only requests that come from Winnow's own pages, from whoever knows the token if there is one.

    anywhere: the server is bound to more than this machine, so other names for it are fine; addresses: only by these,
    where any are given. codes: let in once;
    devices: let in by a token of their own.
    """

    def __init__(
        self,
        app: ASGIApp,
        *,
        codes: EntryCodes,
        devices: Devices,
        token: str | None = None,
        anywhere: bool = False,
        addresses: Sequence[str] = (),
    ) -> None:
        self.codes = codes
        self.devices = devices
        self.app = app
        self.token = token
        self.anywhere = anywhere
        self.hosts = {urlsplit(address).netloc for address in addresses}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(scope, headers)
        answer: ASGIApp = self.app
        if refusal:
            answer = response(Code.REFUSED, refusal)
        elif self.token is not None and not self._knows_token(scope, headers, self.token):
            answer = await run_in_threadpool(self._let_in, scope, self.token)
        device = scope.get("device")
        if device is not None and device.proposes and not _may_propose(scope):
            answer = response(Code.REFUSED, ONLY_PROPOSES)
        elif device is not None and scope["method"] not in SAFE_METHODS and OWNERS.fullmatch(scope["path"]):
            answer = response(Code.REFUSED, ONLY_THE_OWNER)
        if device is not None and self.devices.is_due(device):
            await run_in_threadpool(self.devices.note_seen, device, now())

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out.setdefault("Content-Security-Policy", POLICY.format(nonce="none"))
                out["X-Content-Type-Options"] = "nosniff"
                out["Referrer-Policy"] = "no-referrer"
                out["Cross-Origin-Resource-Policy"] = "same-origin"
                out["Cross-Origin-Opener-Policy"] = "same-origin"
            await send(message)

        await answer(scope, receive, send_guarded)

    def _refusal(self, scope: Scope, headers: Headers) -> str | None:
        host = headers.get("host", "")
        may_be_other = self.anywhere and (not self.hosts or host in self.hosts)
        if not may_be_other and not _is_this_machine(host):
            return "This address is not this machine's: open Winnow at the address it printed."
        origin = headers.get("origin")
        if origin is not None and _place_of(origin) not in _places(scope, host):
            return "Another site may not use Winnow."
        if headers.get("sec-fetch-site") == "cross-site" and (
            scope["method"] not in SAFE_METHODS
            or headers.get("sec-fetch-mode") != "navigate"
            or headers.get("sec-fetch-dest") != "document"
        ):
            return "Another site may not use Winnow."
        return None

    def _knows_token(self, scope: Scope, headers: Headers, token: str) -> bool:
        """By the cookie or by a bearer token; what else is in the cookies does not matter. A device is noted in the
        scope."""
        offered = [headers.get("authorization", "").removeprefix("Bearer ")]
        for line in headers.getlist("cookie"):
            offered.append(cookie_parser(line).get(cookie_of(token), ""))
        if any(_same(one, token) for one in offered):
            return True
        scope["device"] = next(filter(None, (self.devices.known(one) for one in offered)), None)
        return scope["device"] is not None

    def _let_in(self, scope: Scope, token: str) -> Response:
        """The address with the token or a code in it, opened once, leaves a cookie and loses that."""
        query = parse_qsl(scope["query_string"].decode("latin-1"), keep_blank_values=True)
        offered = dict(query)
        in_api = scope["path"].startswith("/api/")
        may_enter = scope["method"] in SAFE_METHODS and not in_api
        address = (scope.get("client") or ("", 0))[0]
        own = self._own_token(offered, token, address) if may_enter else None
        if own is not None:
            rest = urlencode([(name, value) for name, value in query if name not in (TOKEN, CODE)])
            # Only the path: the scheme and host are those that the browser used.
            place = URL(path="/" + scope["path"].lstrip("/"), query=rest)
            answer = RedirectResponse(place, 303, headers={"Cache-Control": "no-store"})
            answer.set_cookie(cookie_of(token), own, max_age=COOKIE_AGE_S, httponly=True, samesite="strict")
            return answer
        message = "An access token is needed: open the address that Winnow printed at its start."
        if in_api:
            return response(Code.NO_ACCESS, message, headers={"WWW-Authenticate": "Bearer"})
        if scope["method"] == "GET" and "text/html" in Headers(scope=scope).get("accept", ""):
            return _entry_page()
        return PlainTextResponse(message, 401, headers={"WWW-Authenticate": "Bearer"})

    def _own_token(self, offered: dict[str, str], token: str, address: str) -> str | None:
        """What the cookie of whoever comes in by a token or a code will hold; None: they do not."""
        if _same(offered.get(TOKEN, ""), token):
            return token
        entry = self.codes.take(offered.get(CODE, ""), address)
        if entry is None:
            return None
        if entry.device is None:
            return token
        return self.devices.let_in(entry.device, now(), proposes=entry.proposes)


def _entry_page() -> Response:
    """Where a code is typed."""
    nonce = secrets.token_urlsafe(16)
    page = (resources.files("winnow.api") / "entry.html").read_text("utf-8").replace("NONCE", nonce)
    policy = POLICY.format(nonce=nonce).replace("form-action 'none'", "form-action 'self'")
    headers = {"WWW-Authenticate": "Bearer", "Content-Security-Policy": policy, "Cache-Control": "no-store"}
    return HTMLResponse(page, 401, headers=headers)


def _may_propose(scope: Scope) -> bool:
    """Whether a request changes nothing but what can be proposed."""
    return scope["method"] in SAFE_METHODS or PROPOSING.fullmatch(scope["path"]) is not None


def _same(offered: str, token: str) -> bool:
    return hmac.compare_digest(offered.encode("utf-8", "replace"), token.encode())


def _place_of(address: str) -> tuple[str, str] | None:
    """Scheme and authority of an address; None if it is no address."""
    try:
        parts = urlsplit(address)
        return parts.scheme, parts.netloc
    except ValueError:
        return None


def _places(scope: Scope, host: str) -> set[tuple[str, str]]:
    """What Winnow's own pages have as origin (RFC 6454: scheme, host and port). A proxy that adds TLS says so."""
    forwarded = Headers(scope=scope).get("x-forwarded-proto", "")
    return {(scope.get("scheme", "http"), host), *([("https", host)] if forwarded == "https" else [])}


def _is_this_machine(host: str) -> bool:
    try:
        place = urlsplit(f"//{host}")
        return place.port != -1 and is_loopback(place.hostname or "")  # a port that is none raises
    except ValueError:
        return False
