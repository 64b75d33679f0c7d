"""The WSGI application that waitress serves."""

import os

from django.core.wsgi import get_wsgi_application

from fellwind.kit.limits import in_utf8

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fellwind.settings")
application = in_utf8(get_wsgi_application())
