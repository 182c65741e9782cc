"""What the server process runs."""

import os
from importlib import import_module

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
application = get_wsgi_application()
import_module("config.urls")  # now, so that the first person does not wait for it
