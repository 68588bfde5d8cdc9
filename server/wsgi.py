"""The application for a WSGI server."""

import gc
import os
import sys

# pyarrow loads it when it first hands out a column; so it does not happen within a request.
import pandas  # noqa: F401
from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.settings.production")
sys.setswitchinterval(0.001)  # a long chart must not keep short requests waiting [s]
application = get_wsgi_application()
# What is loaded stays; it need not be looked through again and again while requests wait.
gc.collect()
gc.freeze()
