"""Settings, all of them from the environment; the defaults are safe for serving."""

import os
from pathlib import Path

from csp.constants import NONCE, NONE, SELF

from percorso_server.config.database import connection_settings

ROOT = Path(__file__).resolve().parents[3]
WEB_DIST = ROOT / "web" / "dist"

DEBUG = False
DEMO = os.environ.get("PERCORSO_DEMO") == "1"
SECRET_KEY = os.environ["PERCORSO_SECRET_KEY"]
ORIGIN = os.environ.get("PERCORSO_ORIGIN", "http://127.0.0.1:8000")
SERVED_OVER_TLS = ORIGIN.startswith("https://")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]", *filter(None, os.environ.get("PERCORSO_HOSTS", "").split(","))]
CSRF_TRUSTED_ORIGINS = [ORIGIN]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "csp",
    "ninja",
    "percorso_server.workshop",
    "percorso_server.jobs",
    "percorso_server.verification",
    "percorso_server.job_files",
]
MIDDLEWARE = [
    "percorso_server.config.apart.Apart",
    "percorso_server.config.observing.Observed",
    "django.middleware.security.SecurityMiddleware",
    "percorso_server.config.caching.NothingKept",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "percorso_server.workshop.turns.InTurn",
    "percorso_server.config.again.TriedAgain",
]
ROOT_URLCONF = "percorso_server.config.urls"
WSGI_APPLICATION = "percorso_server.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [WEB_DIST],
        "OPTIONS": {"context_processors": ["django.template.context_processors.request"]},
    }
]

DATABASES = {"default": connection_settings(os.environ)}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TEST_RUNNER = "percorso_server.config.test_runner.CountingRunner"

AUTH_USER_MODEL = "workshop.Person"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
PROXIES = int(os.environ.get("PERCORSO_PROXIES", "0"))  # of our own in front of the server, that say whom they serve

SESSION_COOKIE_AGE = 14 * 24 * 3600
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
# Secure wherever the origin is TLS. On the loopback address plain HTTP never leaves the machine.
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SERVED_OVER_TLS
SECURE_HSTS_SECONDS = 31536000 if SERVED_OVER_TLS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if SERVED_OVER_TLS else None
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:"],
        "object-src": [NONE],
        "base-uri": [NONE],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

STATIC_URL = "/static/"
STATIC_ROOT = WEB_DIST / "static"
WHITENOISE_MAX_AGE = 31536000  # every file name carries a hash of its content
DATA_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024
MEDIA_ROOT = os.environ.get("PERCORSO_MEDIA", str(ROOT / ".percorso" / "media"))  # of photos, served by the API alone
SHOP_PHOTOS = int(os.environ.get("PERCORSO_SHOP_PHOTOS", "20000"))  # at most that many of a shop
SHOP_PHOTO_MB = int(os.environ.get("PERCORSO_SHOP_PHOTO_MB", "10000"))
APART = os.environ["PERCORSO_APART"].split(":") if os.environ.get("PERCORSO_APART") else []  # sockets, see apart.py
INSTRUMENTS = os.environ.get("PERCORSO_INSTRUMENTS", "")  # name=host:port, comma-separated

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"
USE_I18N = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"percorso.access": {"level": os.environ.get("PERCORSO_ACCESS_LOG", "WARNING")}},
}
