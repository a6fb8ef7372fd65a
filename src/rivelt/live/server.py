"""The live page over HTTP: on the loopback address alone, for who knows the token, and never on behalf of another page."""

from __future__ import annotations

import asyncio
import hmac
import json
import secrets
import socket
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from typing import TYPE_CHECKING, Any

import uvicorn
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect, Request
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.routing import Route

from rivelt.errors import Refused, RiveltError
from rivelt.live.desk import problem_item
from rivelt.packaged import packaged
from rivelt.templating import Templates

if TYPE_CHECKING:
    from starlette.types import ASGIApp, Receive, Scope, Send

    from rivelt.live.session import Session

HOST = "127.0.0.1"

_HEADERS = {
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; connect-src 'self'; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Referrer-Policy": "no-referrer",
    "X-Content-Type-Options": "nosniff",
}
_STATIC = {"live.js": "text/javascript", "live.css": "text/css", "icon.svg": "image/svg+xml"}
_MOST_BODY = 16_384  # bytes
_MOST_LISTENERS = 32  # tabs
_BEAT = 15.0  # seconds between two signs of life, so that a closed tab is noticed

_TEMPLATES = Templates("rivelt.live")


class Server:
    """A server of one session, on a free port. `address`: what a person opens; it holds the token."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.token = secrets.token_urlsafe(18)
        self.socket = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
        self.socket.bind((HOST, 0))
        self.socket.listen(128)  # whoever has the address may come before the server does
        self.port = int(self.socket.getsockname()[1])
        self.address = f"http://{HOST}:{self.port}/{self.token}/"
        self._over = asyncio.Event()
        self._listeners = 0
        settings = uvicorn.Config(
            self.application(),
            log_level="critical",
            access_log=False,
            lifespan="on",
            timeout_graceful_shutdown=1,
            server_header=False,
        )
        self._server = uvicorn.Server(settings)

    def run(self) -> None:
        """Serve until Ctrl-C, or until `stop` is called from another thread."""
        self.session.start(on_crash=self.stop)
        try:
            self._server.run(sockets=[self.socket])
        finally:
            self.session.stop()
            self.socket.close()

    def stop(self) -> None:
        """End `run`."""
        self._server.should_exit = True

    def application(self) -> ASGIApp:
        """Return the whole as an ASGI application."""
        base = "/{token}"
        routes = [
            Route(f"{base}/", self._page, methods=["GET"]),
            Route(f"{base}/static/{{name}}", self._static, methods=["GET"]),
            Route(f"{base}/state", self._state, methods=["GET"]),
            Route(f"{base}/events", self._events, methods=["GET"]),
            Route(f"{base}/picture/{{name}}.png", self._picture, methods=["GET"]),
            Route(f"{base}/true/{{name}}.png", self._true_pixels, methods=["GET"]),
            *(
                Route(f"{base}/{name}", self._posting(act), methods=["POST"])
                for name, act in {
                    "set": self._set,
                    "reset": self._reset,
                    "write": self._write,
                    "undo": self._undo,
                }.items()
            ),
        ]
        plain = Starlette(routes=routes, lifespan=self._lifespan, exception_handlers={HTTPException: _told})
        return _Guard(plain, self)

    @asynccontextmanager
    async def _lifespan(self, _app: Starlette) -> AsyncIterator[None]:
        async def watch_for_the_end() -> None:
            while not self._server.should_exit:
                await asyncio.sleep(0.05)
            self._over.set()

        task = asyncio.create_task(watch_for_the_end())
        yield
        task.cancel()

    # What is read

    async def _page(self, _request: Request) -> Response:
        text = _TEMPLATES.render("live.html.j2", name=self.session.board.state()["name"])
        return Response(text, media_type="text/html")

    async def _static(self, request: Request) -> Response:
        name = request.path_params["name"]
        if name not in _STATIC:
            raise HTTPException(404)
        data = packaged("rivelt.live", f"static/{name}")
        return Response(data, media_type=_STATIC[name])

    async def _state(self, _request: Request) -> Response:
        return JSONResponse(self.session.board.state())

    async def _picture(self, request: Request) -> Response:
        return _png(self.session.gallery.picture(request.path_params["name"]))

    async def _true_pixels(self, request: Request) -> Response:
        gallery, pictures = self.session.gallery, self.session.pictures
        return _png(await run_in_threadpool(gallery.true_pixels, request.path_params["name"], pictures))

    async def _events(self, request: Request) -> Response:
        """What is there, and then each change, as server-sent events."""
        if self._listeners >= _MOST_LISTENERS:
            raise HTTPException(503)
        return StreamingResponse(
            self._told_to(request), media_type="text/event-stream", headers={"Cache-Control": "no-store"}
        )

    async def _told_to(self, request: Request) -> AsyncIterator[bytes]:
        loop = asyncio.get_running_loop()
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        self._listeners += 1

        def told_of(told: dict[str, Any]) -> None:
            loop.call_soon_threadsafe(queue.put_nowait, told)

        end = self.session.board.listen(told_of)
        try:
            quiet = 0.0
            while not self._over.is_set() and not await request.is_disconnected():
                try:
                    told = await asyncio.wait_for(queue.get(), 0.2)
                except TimeoutError:
                    quiet += 0.2
                    if quiet >= _BEAT:
                        quiet = 0.0
                        yield b": still here\n\n"
                    continue
                yield f"data: {json.dumps(told, ensure_ascii=False, separators=(',', ':'))}\n\n".encode()
        finally:
            end()
            self._listeners -= 1

    # What is changed

    def _posting(self, act: Callable[[dict[str, Any]], None]) -> Callable[[Request], Awaitable[Response]]:
        """A route that does something with the JSON that was sent."""

        async def answer(request: Request) -> Response:
            sent = await _sent(request)
            try:
                await run_in_threadpool(act, sent)
            except RiveltError as error:
                status = 409 if isinstance(error, Refused) else 422
                return JSONResponse(problem_item(error), status_code=status)
            return JSONResponse({})

        return answer

    def _set(self, sent: dict[str, Any]) -> None:
        self.session.put(str(sent.get("key", "")), sent.get("value"))

    def _reset(self, _sent: dict[str, Any]) -> None:
        if self.session.desk is not None:
            self.session.desk.reset()
            self.session.renew(is_saved=False)

    def _write(self, sent: dict[str, Any]) -> None:
        if self.session.desk is not None:
            self.session.desk.write(str(sent.get("digest", "")))
            self.session.renew()

    def _undo(self, _sent: dict[str, Any]) -> None:
        if self.session.desk is not None:
            self.session.desk.undo()
            self.session.renew()


async def _told(_request: Request, error: Exception) -> Response:
    status = error.status_code if isinstance(error, HTTPException) else 500
    return JSONResponse({"message": f"HTTP {status}", "place": "", "hint": ""}, status_code=status)


async def _sent(request: Request) -> dict[str, Any]:
    """The JSON object that was sent.

    Raises:
        HTTPException: it is not one, or is too large.
    """
    if request.headers.get("content-type", "").partition(";")[0].strip() != "application/json":
        raise HTTPException(415)
    body = bytearray()
    try:
        async for part in request.stream():
            body += part
            if len(body) > _MOST_BODY:
                raise HTTPException(413)
        found = json.loads(body or b"{}")
    except (ValueError, RecursionError, ClientDisconnect) as error:
        raise HTTPException(400) from error
    if not isinstance(found, dict):
        raise HTTPException(400)
    return found


def _png(data: bytes | None) -> Response:
    if data is None:
        raise HTTPException(404)
    return Response(data, media_type="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"})


class _Guard:
    """What every request passes first: the host must be ours, the token right, and what changes something must come from our own page."""

    def __init__(self, application: ASGIApp, server: Server) -> None:
        self._application = application
        self._server = server

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._application(scope, receive, send)
            return
        if scope["type"] != "http":
            return
        refusal = self._refusal(scope)
        if refusal is not None:
            await JSONResponse({"message": f"HTTP {refusal}"}, status_code=refusal, headers=_HEADERS)(
                scope, receive, send
            )
            return

        async def send_guarded(message: Any) -> None:
            if message["type"] == "http.response.start":
                own = {name.lower().encode(): value.encode() for name, value in _HEADERS.items()}
                if not any(name == b"cache-control" for name, _ in message["headers"]):
                    own[b"cache-control"] = b"no-store"
                message["headers"] = [*message["headers"], *own.items()]
            await send(message)

        await self._application(scope, receive, send_guarded)

    def _refusal(self, scope: Scope) -> int | None:
        """The status with which a request is refused; None where it may pass."""
        headers = [(name.lower(), value) for name, value in scope["headers"]]
        hosts = [value for name, value in headers if name == b"host"]
        port = self._server.port
        if len(hosts) != 1 or hosts[0] not in {f"{host}:{port}".encode() for host in (HOST, "localhost")}:
            return 421
        origins = [value for name, value in headers if name == b"origin"]
        own = [b"http://" + hosts[0]]
        if origins and origins != own:
            return 403
        if scope["method"] not in {"GET", "HEAD"} and origins != own:
            return 403
        sites = [value for name, value in headers if name == b"sec-fetch-site"]
        if any(site in {b"cross-site", b"same-site"} for site in sites) and scope["method"] != "GET":
            return 403
        token = str(scope["path"]).split("/")[1] if str(scope["path"]).count("/") else ""
        return None if hmac.compare_digest(token.encode(), self._server.token.encode()) else 404
