"""Settings. Everything that differs between shops comes from the environment or from
$FELLWIND_HOME.
"""

import os
import secrets
from collections.abc import MutableMapping
from pathlib import Path
from urllib.parse import urlsplit

from csp.constants import NONE, SELF

from fellwind.kit.network import LOOPBACK, reached_at

BASE = Path(__file__).resolve().parent
HOME = Path(os.environ.get("FELLWIND_HOME", BASE.parent.parent / "var")).resolve()
os.umask(0o077)  # whatever is written here is for its owner alone


def _secret_key() -> str:
    """Read the shop's key, or make it on the first run, readable by its owner alone."""
    path = HOME / "secret-key"
    if not path.exists():
        HOME.mkdir(parents=True, exist_ok=True)
        descriptor = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(descriptor, "w") as file:
            file.write(secrets.token_urlsafe(64))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = os.environ.get("FELLWIND_DEBUG") == "1"
DEMO = os.environ.get("FELLWIND_DEMO") == "1"

# Where it listens, and the address that people know it by (docs/running.md).
LISTEN = os.environ.get("FELLWIND_HOST", "127.0.0.1")
URL = os.environ.get("FELLWIND_URL", "").rstrip("/")
PROXY = os.environ.get("FELLWIND_PROXY", "")  # the one address whose word on others is taken
_PUBLIC = urlsplit(URL)
HTTPS = _PUBLIC.scheme == "https"
ALLOWED_HOSTS = [
    *LOOPBACK,
    *reached_at(LISTEN),
    *([_PUBLIC.hostname] if _PUBLIC.hostname else []),
    *os.environ.get("FELLWIND_HOSTS", "").split(),
]
CSRF_TRUSTED_ORIGINS = [
    *([f"{_PUBLIC.scheme}://{_PUBLIC.netloc}"] if _PUBLIC.netloc else []),
    *os.environ.get("FELLWIND_ORIGINS", "").split(),
]
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
SECURE_HSTS_SECONDS = 365 * 86400 if HTTPS else 0
# Other names of the shop's domain, and the browsers' own list, are not this application's business.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

INSTALLED_APPS = [
    "fellwind.kit",
    # Rooms, the lower ones first: each may use those above it in this list.
    "fellwind.people",
    "fellwind.shop",
    "fellwind.rack",
    "fellwind.designs",
    "fellwind.builds",
    "fellwind.tiller",
    "fellwind.strings",
    "fellwind.calendar",
    "fellwind.instruments",
    "fellwind.sight",
    "fellwind.practice",
    "fellwind.ledger",
    "fellwind.today",
    "fellwind.demo",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "axes",
    "csp",
]

MIDDLEWARE = [
    "fellwind.kit.limits.BodyMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "fellwind.kit.private.PrivateMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "fellwind.kit.door.DoorMiddleware",
    "fellwind.kit.permissions.RoleMiddleware",
    "fellwind.shop.middleware.UnitsMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "fellwind.kit.once.OnceMiddleware",
    "fellwind.kit.survive.SurviveMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "fellwind.kit.again.AskedAgainMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "fellwind.urls"
WSGI_APPLICATION = "fellwind.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "fellwind.kit.context.shop",
            ],
            "builtins": ["fellwind.kit.templatetags.measures"],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": HOME / "fellwind.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;"
            ),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Results of the core, under the key of their inputs: safe to delete at any time.
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "core": {
        "BACKEND": "fellwind.kit.checked_cache.CheckedCache",
        "LOCATION": os.environ.get("FELLWIND_RESULTS") or HOME / "cache",
        "TIMEOUT": None,
        "OPTIONS": {"MAX_ENTRIES": 4000},
    },
}

AUTH_USER_MODEL = "people.Person"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "fellwind.people.passwords.RepetitionValidator"},
]
LOGIN_URL = "people:login"
LOGIN_REDIRECT_URL = "today:today"
LOGOUT_REDIRECT_URL = "people:login"

# Names and addresses are slowed separately; a browser that its owner signed in with before is not
# shut out by what others try (people/doorway.py).
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = ["username", "ip_address"]
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_CLIENT_IP_CALLABLE = "fellwind.people.doorway.address"
AXES_WHITELIST_CALLABLE = "fellwind.people.doorway.is_known"
AXES_LOCKOUT_TEMPLATE = "people/locked.html"
AXES_VERBOSE = False

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "manifest-src": [SELF],
        "worker-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
SESSION_ENGINE = "fellwind.people.sessions"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 60
DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000
PHOTOS = HOME / "photos"

LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True
USE_I18N = False

STATIC_URL = "static/"
STATICFILES_DIRS = [BASE / "static"]
WHITENOISE_USE_FINDERS = True


def _worker_scope(headers: MutableMapping[str, str], path: str, url: str) -> None:
    """Let the service worker see every page, though it lies among the static files."""
    if url.endswith("/worker.js"):
        headers["Service-Worker-Allowed"] = "/"


WHITENOISE_ADD_HEADERS_FUNCTION = _worker_scope


WHITENOISE_MAX_AGE = 60 if DEBUG or DEMO else 3600

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"no tokens": {"()": "fellwind.kit.private.NoTokens"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["no tokens"]}},
    "loggers": {
        "django": {"handlers": ["console"], "level": "WARNING"},
        "axes": {"level": "WARNING"},
    },
}
