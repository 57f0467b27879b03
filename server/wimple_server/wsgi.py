"""The WSGI application. Under `web_server.py` it is loaded and made warm once, and the processes that answer are forked
from there."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "wimple_server.settings")
application = get_wsgi_application()

from .warming import warm_up  # noqa: E402

warm_up()
