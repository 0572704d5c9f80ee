"""The web application: API, events and the built screens, on one address."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from lynxbill import __version__
from lynxbill.agent_file import build_agent
from lynxbill.api.http import events, health
from lynxbill.api.http.deadline import Deadline
from lynxbill.api.http.errors import Unrouted, add_error_handlers
from lynxbill.api.http.guard import RequestGuard
from lynxbill.api.http.large_bodies import BodyChecker, LargeBodies
from lynxbill.api.http.lines import running_keeper
from lynxbill.api.http.openapi import PROBLEMS, describe_problems
from lynxbill.api.http.tidy import running_tidy
from lynxbill.api.routes import (
    bench,
    casework,
    columns,
    heat,
    machines,
    pictures,
    removal,
    reports,
    run_files,
    seating,
    sensor_logs,
    setting_aside,
    shelf,
    sittings,
    swaps,
    traces,
    vocabulary,
)
from lynxbill.store.database import NOWHERE, open_engine, session_factory
from lynxbill.store.space import Space

WEB = Path(__file__).parents[3] / "web" / "dist"

ROUTERS = (
    vocabulary,
    bench,
    traces,
    columns,
    seating,
    machines,
    swaps,
    casework,
    sittings,
    pictures,
    removal,
    setting_aside,
    reports,
    shelf,
    run_files,
    sensor_logs,
    health,
    heat,
    events,
)


def api_routes() -> list[APIRoute]:
    """Every operation, always in the same order."""
    return [route for module in ROUTERS for route in module.router.routes if isinstance(route, APIRoute)]


class Screens(StaticFiles):
    """The built web application; addresses that are no file are its own routes."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        if scope["method"] not in ("GET", "HEAD"):
            raise HTTPException(405, headers={"Allow": "GET, HEAD"})
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith(("api", "assets")):
                raise
            response = await super().get_response("index.html", scope)
        if not path.startswith("assets"):
            response.headers["Cache-Control"] = "no-cache"
        return response


def hand_out_agent() -> Response:
    """The agent, as the single file that is carried to the machine under test."""
    return Response(build_agent(), media_type="application/octet-stream")


def create_app(database_url: str, web: Path = WEB, space: Space = NOWHERE) -> FastAPI:
    """Assemble the application on a migrated database."""
    engine = open_engine(database_url, is_asked=True)
    sessions = session_factory(engine, space)
    checker = BodyChecker(api_routes)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        async with (
            running_tidy(sessions),
            running_keeper(sessions) as keeper,
            events.running_hub(database_url, keeper) as hub,
        ):
            app.state.hub, app.state.keeper = hub, keeper
            yield
        checker.close()
        engine.dispose()

    app = FastAPI(
        title="Lynxbill",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses=PROBLEMS,
    )
    app.state.sessions = sessions
    # The last one added sees a request first.
    app.add_middleware(LargeBodies, checker=checker)
    app.add_middleware(Deadline, url=database_url)
    app.add_middleware(RequestGuard)
    add_error_handlers(app)
    for module in ROUTERS:
        app.include_router(module.router, prefix="/api")
    app.mount("/api", Unrouted(api_routes()))
    describe_problems(app)
    app.add_api_route("/agent/lynxbill-bench.pyz", hand_out_agent, include_in_schema=False)
    if web.is_dir():
        app.mount("/", Screens(directory=web, html=True))
    return app
