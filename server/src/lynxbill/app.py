"""The web application: API, events and the built screens, on one address."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from lynxbill import __version__
from lynxbill.api import (
    casework,
    columns,
    events,
    machines,
    pictures,
    reports,
    run_files,
    shelf,
    sittings,
    swaps,
    vocabulary,
)
from lynxbill.api.errors import ProblemOut, add_error_handlers
from lynxbill.api.guard import RequestGuard
from lynxbill.api.lines import running_keeper
from lynxbill.store.database import open_engine, session_factory

WEB = Path(__file__).parents[3] / "web" / "dist"

ROUTERS = (
    vocabulary,
    columns,
    machines,
    swaps,
    casework,
    sittings,
    pictures,
    reports,
    shelf,
    run_files,
    events,
)


class Screens(StaticFiles):
    """The built web application; addresses that are no file are its own routes."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api", "assets")):
                raise
            response = await super().get_response("index.html", scope)
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        if not path.startswith("assets"):
            response.headers["Cache-Control"] = "no-cache"
        return response


# Headless UI positions its menus with style attributes, hence unsafe-inline for styles alone.
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


def create_app(database_url: str, web: Path = WEB) -> FastAPI:
    """Assemble the application on a migrated database."""
    engine = open_engine(database_url)
    sessions = session_factory(engine)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        async with running_keeper(sessions) as keeper, events.running_hub(database_url, keeper) as hub:
            app.state.hub, app.state.keeper = hub, keeper
            yield
        engine.dispose()

    app = FastAPI(
        title="Lynxbill",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={"default": {"model": ProblemOut, "description": "A problem, RFC 9457"}},
    )
    app.state.sessions = sessions
    app.add_middleware(RequestGuard)
    add_error_handlers(app)
    for module in ROUTERS:
        app.include_router(module.router, prefix="/api")
    if web.is_dir():
        app.mount("/", Screens(directory=web, html=True))
    return app
