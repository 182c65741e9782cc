"""What the server process runs."""

import gc
import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "percorso_server.config.settings")
application = get_wsgi_application()
import_module("percorso_server.config.urls")  # now, so that the first person does not wait for it
# One answer makes tens of thousands of short-lived objects. Looking through all that is loaded for good each time they
# pile up took a fifth of the time of a what-if.
gc.freeze()
gc.set_threshold(50_000, 20, 50)
