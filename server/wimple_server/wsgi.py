"""The WSGI application; what reads files is started with it, so that the first file waits for nothing."""

import os
import threading

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "wimple_server.settings")
application = get_wsgi_application()


def warm() -> None:
    from .reading import APART

    APART.warm()


threading.Thread(target=warm, daemon=True).start()
