"""Django's management commands: ``python -m fellwind migrate`` and the like."""

import os
import sys

from django.core.management import execute_from_command_line

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "fellwind.settings")
execute_from_command_line(sys.argv)
