from django.urls import path, re_path

from studio.api import api
from studio.api.boundary import no_such_place
from studio.api.events import events
from studio.page import page

urlpatterns = [
    path("api/projects/<slug:slug>/events", events),
    path("api/", api.urls),
    path("api/<path:rest>", no_such_place),
    re_path(r"^(?!api/|assets/).*$", page),
]
