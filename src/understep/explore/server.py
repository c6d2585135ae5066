"""The server of `explore`: on this machine alone, for browsers that have its token."""

from __future__ import annotations

import secrets
from importlib import resources
from typing import TYPE_CHECKING, Any

from understep.boards.board import Board
from understep.errors import MissingExtraError, UnderstepError
from understep.explore.session import Session, as_json

if TYPE_CHECKING:
    from flask import Flask, Response
    from werkzeug.serving import BaseWSGIServer

HOST = "127.0.0.1"
MOST = 1 << 20  # bytes of a request
POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'"
)


class Server:
    """A board served on this machine; ``address`` is where a browser finds it."""

    def __init__(self, board: Board, port: int = 0) -> None:
        """Port 0: any that is free."""
        try:
            from werkzeug.serving import WSGIRequestHandler, make_server
        except ImportError:
            raise MissingExtraError("exploring a board", "explore") from None

        class Silent(WSGIRequestHandler):
            """Writes no address, and so no token, into a log."""

            def log_request(self, *_: object) -> None:
                """Write nothing."""

        self.token = secrets.token_urlsafe(24)
        self._hosts: set[str] = set()
        app = _app(Session(board), self.token, self._hosts)
        self._server: BaseWSGIServer = make_server(
            HOST, port, app, threaded=True, request_handler=Silent
        )
        #: The port.
        self.port = self._server.server_port
        self._hosts |= {f"{HOST}:{self.port}", f"localhost:{self.port}"}

    @property
    def address(self) -> str:
        """Where a browser finds it; the token lets it in."""
        return f"http://{HOST}:{self.port}/?token={self.token}"

    def run(self) -> None:
        """Serve until `stop`."""
        self._server.serve_forever()

    def stop(self) -> None:
        """Stop, and release the port."""
        self._server.shutdown()
        self._server.server_close()


def _app(session: Session, token: str, hosts: set[str]) -> Flask:
    from flask import Flask, Response, abort, request

    app = Flask("understep", static_folder=None)
    app.config["MAX_CONTENT_LENGTH"] = MOST

    @app.before_request
    def guard() -> None:
        """Let in who has the token, from a page of this server or none."""
        # a page of elsewhere could send requests here, by another name of this machine too
        if request.host not in hosts:
            abort(403, "another host")
        origin = request.headers.get("Origin")
        if origin is not None and origin not in {f"http://{host}" for host in hosts}:
            abort(403, "another origin")
        given = request.headers.get("X-Token") or request.args.get("token", "")
        if not secrets.compare_digest(given.encode(), token.encode()):
            abort(403, "no token")

    @app.after_request
    def seal(response: Response) -> Response:
        """Nothing of it is kept, shown in frames, or asks others for anything."""
        response.headers.update({
            "Content-Security-Policy": POLICY, "X-Content-Type-Options": "nosniff",
            "Cache-Control": "no-store", "Referrer-Policy": "no-referrer",
        })  # fmt: skip
        return response

    def json(found: dict[str, Any]) -> Response:
        return Response(as_json(found), mimetype="application/json")

    @app.errorhandler(UnderstepError)
    def refused(error: UnderstepError) -> tuple[Response, int]:
        return json({"why": str(error)}), 400

    @app.get("/")
    def page() -> Response:
        script = resources.files("understep").joinpath("explore", "explore.js").read_text("utf-8")
        return Response(session.page(token, script), mimetype="text/html")

    @app.post("/act")
    def act() -> Response:
        return json(session.act(request.get_json(silent=True)))

    @app.get("/look")
    def look() -> Response:
        return json(session.look(request.args.get("unit"), request.args.get("seen", -1, int)))

    @app.get("/explain")
    def explain() -> Response:
        place = request.args.get("cell", -1, int)
        return json({"text": session.explain(request.args.get("unit", ""), place)})

    @app.get("/board.json")
    def save() -> Response:
        names = {"Content-Disposition": "attachment; filename=board.json"}
        return Response(session.save(), mimetype="application/json", headers=names)

    return app
