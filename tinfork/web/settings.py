"""Settings, each from an environment variable where it differs between machines."""

import os
from datetime import timedelta
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF

ROOT = Path(__file__).resolve().parents[2]
DATA = Path(os.environ.get("TINFORK_DATA", ROOT / "var"))

SECRET_KEY = os.environ["TINFORK_SECRET_KEY"]
DEBUG = False
ALLOWED_HOSTS = os.environ.get("TINFORK_HOSTS", "localhost,127.0.0.1").split(",")
HTTPS = os.environ.get("TINFORK_HTTPS", "") == "1"
"""Whether people come by HTTPS, which ends in front of us and says so in X-Forwarded-Proto."""

BEHIND_FRONT = "TINFORK_RUN" in os.environ
"""Whether our own front (script/front) stands before us: it says who asks, and hands files out."""

if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^health/$", r"^may-send$"]
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    CSRF_TRUSTED_ORIGINS = [f"https://{name}" for name in ALLOWED_HOSTS]
    # What else is at a name, and at those below it, is not ours to say.
    SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

TINFORK_DEMO = os.environ.get("TINFORK_DEMO", "") == "1"
"""Whether the demo's one-click entry is offered."""

DATABASES = {
    "default": dj_database_url.parse(os.environ["TINFORK_DATABASE_URL"], conn_max_age=600, conn_health_checks=True)
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "csp",
    "axes",
    "procrastinate.contrib.django",
    "tinfork.web.upkeep",
    "tinfork.web.accounts",
    "tinfork.web.productions",
    "tinfork.web.people",
    "tinfork.web.notices",
    "tinfork.web.stream",
    "tinfork.web.shots",
    "tinfork.web.board",
    "tinfork.web.edits",
    "tinfork.web.charts",
    "tinfork.web.faces",
    "tinfork.web.jobs",
    "tinfork.web.sound",
    "tinfork.web.script",
    "tinfork.web.lexicon",
    "tinfork.web.staves",
    "tinfork.web.reading",
    "tinfork.web.desk",
    "tinfork.web.acting",
    "tinfork.web.handover",
    "tinfork.web.sheet",
    "tinfork.web.prompter",
    "tinfork.web.rushes",
    "tinfork.web.following",
    "tinfork.web.finding",
    "tinfork.web.bundles",
    "tinfork.web.pages",
    "tinfork.web.demo",
]

MIDDLEWARE = [
    "tinfork.web.numbered.number_requests",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "tinfork.web.files.serving.keep_private",
    "tinfork.web.files.packing.PackPages",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "tinfork.web.cleaning.CleanForms",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "tinfork.web.productions.permissions.one_question",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [Path(__file__).parent / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
        },
    }
]

ROOT_URLCONF = "tinfork.web.urls"
WSGI_APPLICATION = "tinfork.web.wsgi.application"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}Validator", "OPTIONS": options}
    for name, options in {
        "MinimumLength": {"min_length": 10},
        "CommonPassword": {},
        "NumericPassword": {},
        "UserAttributeSimilarity": {},
    }.items()
]
PASSWORD_HASHERS = [f"django.contrib.auth.hashers.{name}PasswordHasher" for name in ("Scrypt", "PBKDF2")]
"""The first is as hard to guess as the second for a fifth of the time, and lets others work meanwhile."""

AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "tinfork.web.accounts.guesses.address_of"
AXES_LOCKOUT_CALLABLE = "tinfork.web.accounts.guesses.locked_out"
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_DISABLE_ACCESS_LOG = True
AXES_ENABLE_ADMIN = AXES_VERBOSE = False
EMAIL_HOST = os.environ.get("TINFORK_MAIL_HOST", "")
"""What sends mail; "" where nothing does, and links are copied."""

EMAIL_PORT = int(os.environ.get("TINFORK_MAIL_PORT", "587"))
EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = (os.environ.get(f"TINFORK_MAIL_{name}", "") for name in ("USER", "PASSWORD"))
EMAIL_USE_TLS = os.environ.get("TINFORK_MAIL_TLS", "1") == "1"
EMAIL_TIMEOUT = 10
DEFAULT_FROM_EMAIL = os.environ.get("TINFORK_MAIL_FROM", "tin-fork@localhost")

LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "shelf"
LOGOUT_REDIRECT_URL = "sign-in"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "media-src": [SELF, "blob:"],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

_PACKAGES = ROOT / "node_modules"
STATIC_URL = "/static/"
STATIC_ROOT = DATA / "static"
STATICFILES_DIRS = [
    Path(__file__).parent / "static",
    ROOT / "build" / "site",
    ("guide", ROOT / "docs" / "screenshots"),
    ("vendor/htmx", _PACKAGES / "htmx.org" / "dist"),
    ("vendor/alpine", _PACKAGES / "@alpinejs" / "csp" / "dist"),
]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
MEDIA_ROOT = DATA / "files"
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
FILE_UPLOAD_HANDLERS = [
    "tinfork.web.sound.uploads.RefuseTooLarge",
    "django.core.files.uploadhandler.MemoryFileUploadHandler",
    "django.core.files.uploadhandler.TemporaryFileUploadHandler",
]
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024

CAMERA = os.environ.get("TINFORK_CAMERA", "").rstrip("/")
"""Where a camera answers that takes a frame when told, as http://127.0.0.1:8041; "" where there is none."""

SECONDS_UNTIL_LOST = float(os.environ.get("TINFORK_SECONDS_UNTIL_LOST", "8"))
"""How long a worker may be silent before what it was doing is given to another. Workers speak every two seconds."""

WORKER_MEGABYTES = int(os.environ.get("TINFORK_WORKER_MEGABYTES", "2500"))
"""So much memory a worker may have. What wants more is refused; a worker that still holds half of it is replaced."""

KEEP_DAYS = int(os.environ.get("TINFORK_KEEP_DAYS", "30"))
"""For so many days what was made is kept; 0 for as long as nobody removes it."""

LANGUAGE_CODE = "en-gb"
USE_TZ = True
TIME_ZONE = "UTC"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"number": {"()": "tinfork.web.numbered.WithNumber"}},
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s [%(request_number)s] %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["number"], "formatter": "line"}},
    "root": {"handlers": ["console"], "level": os.environ.get("TINFORK_LOG", "WARNING")},
}
