"""A stand-in provider of OpenID Connect on this machine: discovery, an answer without questions, tokens, keys.

Plain enough to be read beside OpenID Connect Core 1.0; nothing of ours takes part.
"""

from __future__ import annotations

import base64
import hashlib
import json
import secrets
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import RSAKey

__all__ = ["CLIENT", "SECRET", "Provider"]

CLIENT, SECRET = "fair-texel", "tide-table-secret"


class Provider:
    """claims: of the person who signs in; change them, and what is told changes. wrong: what a token says in their
    place. key: that signs; published: that others are told of."""

    def __init__(self) -> None:
        self.key = self.published = RSAKey.generate_key(2048, {"kid": "one", "use": "sig", "alg": "RS256"})
        self.claims: dict[str, Any] = {"sub": "1001", "email": "mira@example.com", "email_verified": True}
        self.claims["preferred_username"] = "mira"
        self.wrong: dict[str, Any] = {}
        self._codes: dict[str, dict[str, str]] = {}
        provider = self

        class Answers(BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                parts = urlsplit(self.path)
                asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
                if parts.path == "/.well-known/openid-configuration":
                    self._json(provider.about())
                elif parts.path == "/keys":
                    self._json({"keys": [provider.published.as_dict(private=False)]})
                elif parts.path == "/authorize":
                    self.send_response(302)
                    self.send_header("Location", provider.answered(asked))
                    self.end_headers()
                else:
                    self.send_error(404)

            def do_POST(self) -> None:
                given = parse_qs(self.rfile.read(int(self.headers["Content-Length"])).decode())
                basic = base64.b64decode(self.headers.get("Authorization", "").partition(" ")[2]).decode()
                told = provider.token({name: values[0] for name, values in given.items()}, basic)
                self._json(told or {"error": "invalid_grant"}, 200 if told else 400)

            def _json(self, document: Any, status: int = 200) -> None:
                data = json.dumps(document).encode()
                self.send_response(status)
                self.send_header("Content-Type", "application/json")
                self.send_header("Content-Length", str(len(data)))
                self.end_headers()
                self.wfile.write(data)

            def log_message(self, *words: Any) -> None:
                pass

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Answers)
        self.issuer = f"http://127.0.0.1:{self._server.server_address[1]}"
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    def stop(self) -> None:
        self._server.shutdown()
        self._server.server_close()

    def about(self) -> dict[str, str]:
        return {
            "issuer": self.issuer, "authorization_endpoint": f"{self.issuer}/authorize",
            "token_endpoint": f"{self.issuer}/token", "jwks_uri": f"{self.issuer}/keys",
        }  # fmt: skip

    def answered(self, asked: dict[str, str]) -> str:
        """Where the browser goes back to, with a code."""
        assert (asked["client_id"], asked["response_type"]) == (CLIENT, "code")
        assert asked["code_challenge_method"] == "S256"
        code = secrets.token_urlsafe(16)
        self._codes[code] = asked
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}"

    def token(self, given: dict[str, str], basic: str) -> dict[str, Any] | None:
        """A token for a code that was not used yet, from whoever has its verifier and the client's secret."""
        asked = self._codes.pop(given.get("code", ""), None)
        digest = hashlib.sha256(given.get("code_verifier", "").encode()).digest()
        challenge = base64.urlsafe_b64encode(digest).rstrip(b"=").decode()
        if asked is None or asked["code_challenge"] != challenge or basic != f"{CLIENT}:{SECRET}":
            return None
        now = int(time.time())
        claims = {"iss": self.issuer, "aud": CLIENT, "exp": now + 300, "iat": now, "nonce": asked["nonce"]}
        signed = jwt.encode({"alg": "RS256", "kid": self.key.kid}, {**claims, **self.claims, **self.wrong}, self.key)
        return {"access_token": "unused", "token_type": "Bearer", "id_token": signed}
