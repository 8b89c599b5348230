"""The ASGI application that the server runs."""

import os

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
_django = get_asgi_application()

from studio.apart.pool import open_pool  # noqa: E402
from studio.gate import Gate  # noqa: E402

open_pool()
application = Gate(_django)
