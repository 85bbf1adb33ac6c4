"""What a server on a desk must refuse.

Sources: OWASP guidance on DNS rebinding (check the Host header) and on cross-site request forgery
(check Origin and Sec-Fetch-Site); RFC 9110 for the headers.
"""

from __future__ import annotations

import hmac
import ipaddress
from http.cookies import SimpleCookie
from urllib.parse import parse_qs, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

COOKIE = "winnow_token"

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; font-src 'self'; "
    "img-src 'self' blob:; connect-src 'self'; base-uri 'none'; form-action 'none'; "
    "frame-ancestors 'none'"
)


class Guard:
    """Lets through only requests that come from Winnow's own pages on this machine, or, where a token
    is set, from whoever knows it."""

    def __init__(self, app: ASGIApp, *, token: str | None = None) -> None:
        self.app = app
        self.token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(headers)
        if refusal:
            await PlainTextResponse(refusal, 403)(scope, receive, send)
            return
        if self.token is not None and not self._knows_token(headers):
            await self._let_in(scope, receive, send)
            return

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out.setdefault("Content-Security-Policy", POLICY.format(nonce="none"))
                out["X-Content-Type-Options"] = "nosniff"
                out["Referrer-Policy"] = "no-referrer"
                out["Cross-Origin-Resource-Policy"] = "same-origin"
                out["Cross-Origin-Opener-Policy"] = "same-origin"
            await send(message)

        await self.app(scope, receive, send_guarded)

    def _refusal(self, headers: Headers) -> str | None:
        host = headers.get("host", "")
        if self.token is None and not _is_this_machine(host):
            return "This address is not this machine's: open Winnow at the address it printed."
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc != host:
            return "Another site may not use Winnow."
        if headers.get("sec-fetch-site") == "cross-site" and (
            headers.get("sec-fetch-mode") != "navigate" or headers.get("sec-fetch-dest") != "document"
        ):
            return "Another site may not use Winnow."
        return None

    def _knows_token(self, headers: Headers) -> bool:
        assert self.token is not None
        cookie = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
        bearer = headers.get("authorization", "").removeprefix("Bearer ")
        offered = cookie.value if cookie else bearer
        return hmac.compare_digest(offered.encode(), self.token.encode())

    async def _let_in(self, scope: Scope, receive: Receive, send: Send) -> None:
        """The address with the token in it, opened once, leaves a cookie and loses the token."""
        assert self.token is not None
        query = parse_qs(scope["query_string"].decode("latin-1"))
        offered = query.get("token", [""])[0]
        if scope["path"] == "/" and hmac.compare_digest(offered.encode(), self.token.encode()):
            answer = RedirectResponse("/", 303)
            answer.set_cookie(COOKIE, self.token, httponly=True, samesite="strict")
            await answer(scope, receive, send)
            return
        message = "An access token is needed: open the address that Winnow printed at its start."
        await PlainTextResponse(message, 401)(scope, receive, send)


def _is_this_machine(host: str) -> bool:
    name = urlsplit(f"//{host}").hostname or ""
    if name == "localhost":
        return True
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False
