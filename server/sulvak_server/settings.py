"""Settings, all from the environment; the defaults are the safe ones.

SULVAK_SECRET_KEY and DATABASE_URL are made by the start command at the first start. SULVAK_HOSTS
lists the host names served (comma-separated), SULVAK_DEMO=1 shows the demo sign-in, SULVAK_HTTPS=1
says that a proxy in front speaks HTTPS (SULVAK_PROXIES: from which addresses), SULVAK_DEBUG=1 is for development only.
"""

import os
from pathlib import Path
from urllib.parse import unquote, urlparse

from django.core.exceptions import ImproperlyConfigured

from .logs import FORMAT

ROOT = Path(__file__).resolve().parent.parent.parent
WEB_DIST = ROOT / "web" / "dist"


def _flag(name: str) -> bool:
    return os.environ.get(name, "") == "1"


def _needed(name: str) -> str:
    value = os.environ.get(name, "")
    if not value:
        raise ImproperlyConfigured(f"{name} is not set; start Sulvak with ./sulvak start.")
    return value


DEBUG = _flag("SULVAK_DEBUG")
DEMO = _flag("SULVAK_DEMO")
SECRET_KEY = _needed("SULVAK_SECRET_KEY")
ALLOWED_HOSTS = os.environ.get("SULVAK_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.postgres",
    "axes",
    "channels",
    "procrastinate.contrib.django",
    "workspaces",
    "parts",
    "kernel",
    "live",
    "releases",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "sulvak_server.headers.ContentPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "sulvak_server.room.RoomToWrite",
    "sulvak_server.readable.ReadableRequests",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "sulvak_server.urls"
ASGI_APPLICATION = "sulvak_server.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [], "APP_DIRS": True}]

_db = urlparse(_needed("DATABASE_URL"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": _db.path.lstrip("/"),
        "USER": unquote(_db.username or ""),
        "PASSWORD": unquote(_db.password or ""),
        "HOST": _db.hostname or "127.0.0.1",
        "PORT": str(_db.port or 5432),
        "CONN_HEALTH_CHECKS": True,  # a connection that the database dropped is not given out again
        # opening one takes some 20 ms; values go beside the statement, since a file written out in it takes three times
        # the memory
        "OPTIONS": {"pool": {"min_size": 1, "max_size": 16, "timeout": 20}, "server_side_binding": True},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AXES_FAILURE_LIMIT = 6  # in a minute, then a pause, for that name from that address
AXES_ENABLE_ACCESS_FAILURE_LOG = True
NAME_FAILURES = 20  # in a minute, for one name from anywhere
ADDRESS_FAILURES = 40  # in a minute, from one address for any names
AXES_COOLOFF_TIME = 1 / 60  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "sulvak_server.pages.locked_out"
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = _flag("SULVAK_HTTPS")
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"
USE_I18N = False

STATIC_URL = "/static/"
WHITENOISE_ROOT = str(WEB_DIST) if WEB_DIST.is_dir() else None
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/"

CHANNEL_LAYERS = {"default": {"BACKEND": "channels.layers.InMemoryChannelLayer"}}

DATA_UPLOAD_MAX_MEMORY_SIZE = 25_000_000
UPLOAD_LIMIT = 20_000_000  # bytes of one sheet

# one kernel process a core; limits of one piece of kernel work
KERNEL_PROCESSES = int(os.environ.get("SULVAK_KERNEL_PROCESSES", "0")) or (os.cpu_count() or 2)
KERNEL_SECONDS = float(os.environ.get("SULVAK_KERNEL_SECONDS", "120"))
SHOP_INBOX = os.environ.get("SULVAK_SHOP_INBOX", "http://127.0.0.1:8719")  # a stand-in, started beside the server
KERNEL_MEMORY = int(os.environ.get("SULVAK_KERNEL_MEMORY", str(4 << 30)))

PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "tasks"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": FORMAT, "style": "{"}},
    "filters": {"doing": {"()": "sulvak_server.logs.Doing"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain", "filters": ["doing"]}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"sulvak": {"level": "INFO"}},
}
