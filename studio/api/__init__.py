"""The typed HTTP API. Its OpenAPI document is studio/api/openapi.json; the page's client is generated from it."""

from typing import Any

from django.http import HttpRequest
from ninja.errors import AuthenticationError

from studio.apart import Busy
from studio.api import (
    atlases,
    budget,
    casts,
    catalogue,
    deliveries,
    destinations,
    functions,
    ground,
    habits,
    history,
    intakes,
    jobs,
    maps,
    masters,
    members,
    models,
    names,
    people,
    projects,
    regions,
    rules,
    scans,
    search,
    serving,
    session,
    sets,
    steps,
    team,
    text,
    tileable,
    versions,
    waivers,
    watched,
    webhooks,
)
from studio.api.access import BearerToken, NotAllowed, SessionCookie
from studio.api.boundary import Careful, refuse_what_cannot_be_kept
from studio.api.documents import StudioAPI
from studio.api.seen import tell_who_is_late
from studio.changes.errors import Conflict
from studio.intake.uploads import UploadRejected
from studio.people.elsewhere import NotKnown, ProviderRefuses
from texel.errors import TexelError, ToldError

api = StudioAPI(
    title="Fair Texel",
    version="1",
    auth=[BearerToken(), SessionCookie()],
    urls_namespace="api",
    docs_url=None,
    parser=Careful(),
)
for prefix, module in (
    ("", session),
    ("", serving),
    ("", search),
    ("/people", people),
    ("/projects", projects),
    ("/projects/{slug}", members),
    ("/projects/{slug}", history),
    ("/projects/{slug}", team),
    ("/projects/{slug}/text", text),
    ("/steps", steps),
    ("/catalogue", catalogue),
    ("/projects/{slug}/intakes", intakes),
    ("/projects/{slug}/habit", habits),
    ("/projects/{slug}/sets", sets),
    ("/projects/{slug}/maps", maps),
    ("/projects/{slug}/deliveries", deliveries),
    ("/projects/{slug}/destinations", destinations),
    ("/projects/{slug}/watched", watched),
    ("/projects/{slug}/scans", scans),
    ("/projects/{slug}/versions", versions),
    ("/projects/{slug}/jobs", jobs),
    ("/projects/{slug}/webhooks", webhooks),
    ("/projects/{slug}/rules", rules),
    ("/projects/{slug}/names", names),
    ("/projects/{slug}/budget", budget),
    ("/projects/{slug}/waivers", waivers),
    ("/masters", masters),
    ("/functions", functions),
    ("/projects/{slug}/materials", casts),
    ("/projects/{slug}/models", models),
    ("/projects/{slug}/grounds", ground),
    ("/projects/{slug}/sets/{int:pk}/tileable", tileable),
    ("/projects/{slug}/sets/{int:pk}", regions),
    ("/projects/{slug}/atlases", atlases),
):
    api.add_router(prefix, module.router)
api.add_router("", people.without_account)
api.add_router("", history.of_library)
api.add_router("", team.own)


def _problem(request: HttpRequest, error: Any, status: int) -> Any:
    told: dict[str, object] = {"detail": str(error)}
    if isinstance(error, ToldError):
        told |= error.message.document()
    return api.create_response(request, told, status=status)


refuse_what_cannot_be_kept(api)


def _busy(request: HttpRequest, error: Any) -> Any:
    answer = _problem(request, error, error.status)
    answer["Retry-After"] = "2"
    return answer


api.add_exception_handler(Busy, _busy)
tell_who_is_late(api)
api.add_exception_handler(NotKnown, lambda request, error: _problem(request, error, 403))
api.add_exception_handler(ProviderRefuses, lambda request, error: _problem(request, error, 502))
api.add_exception_handler(UploadRejected, lambda request, error: _problem(request, error, 422))
api.add_exception_handler(Conflict, lambda request, error: _problem(request, error, 409))
api.add_exception_handler(TexelError, lambda request, error: _problem(request, error, 422))
api.add_exception_handler(NotAllowed, lambda request, error: _problem(request, error, 403))
api.add_exception_handler(
    AuthenticationError,
    lambda request, error: api.create_response(request, {"detail": "Sign in first."}, status=401),
)
