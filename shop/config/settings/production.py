"""Settings for a shop that is reached over TLS. Secrets come from the environment.

Several app servers on one database need nothing else: sessions, throttling and locks live in the
database, files behind Django's storage.
"""

import os
from pathlib import Path

from csp.constants import NONE, SELF

ROOT = Path(__file__).resolve().parents[3]


def _wanted(name: str) -> str:
    value = os.environ.get(name, "")
    if not value:
        raise SystemExit(f"{name} is not set: ./start makes it, or set it in the environment.")
    return value


SECRET_KEY = _wanted("LASH_SECRET_KEY")
# By it a shop's records and files are told from altered ones; it is in every backup and never changes.
LASH_RECORD_KEY = _wanted("LASH_RECORD_KEY")
DEBUG = False
# Where phones reach this server, for photos by a square code; none is shown while it is empty.
LASH_PHONE_ADDRESS = os.environ.get("LASH_PHONE_ADDRESS", "")
ALLOWED_HOSTS = os.environ.get("LASH_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "django_otp",
    "django_otp.plugins.otp_static",
    "django_otp.plugins.otp_totp",
    "django_htmx",
    "simple_history",
    "shop.people",
    "shop.specs",
    "shop.stock",
    "shop.instruments",
    "shop.vehicles",
    "shop.jobs",
    "shop.bench",
    "shop.practice",
    "shop.worksheets",
    "shop.reports",
    "shop.planning",
    "shop.gearing",
    "shop.road",
    "shop.noise",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "shop.config.middleware.DatabaseLost",
    "shop.config.middleware.SignedOut",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django_otp.middleware.OTPMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "shop.people.middleware.AccountGuard",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "simple_history.middleware.HistoryRequestMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "shop.config.urls"
WSGI_APPLICATION = "shop.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "shop" / "config" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "builtins": ["shop.config.templatetags.format"],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "NAME": os.environ.get("LASH_DB_NAME", "lash"),
        "USER": os.environ.get("LASH_DB_USER", "lash"),
        "PASSWORD": os.environ.get("LASH_DB_PASSWORD", ""),
        "HOST": os.environ.get("LASH_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("LASH_DB_PORT", "3306"),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "charset": "utf8mb4",
            "connect_timeout": 3,
            "isolation_level": "read committed",
            "init_command": "SET sql_mode='STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO'",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "jobs"
LOGOUT_REDIRECT_URL = "sign-in"
# Throttle by name and address together; a known browser counts as an address of its own.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "shop.people.throttle.counted_as"
# So many proxies in front are ours and write X-Forwarded-For; 0: nobody is believed.
LASH_TRUSTED_HOPS = int(os.environ.get("LASH_TRUSTED_HOPS", "0"))
OTP_TOTP_ISSUER = "Lash"
AXES_LOCKOUT_TEMPLATE = "people/locked_out.html"
AXES_RESET_ON_SUCCESS = True

LANGUAGE_CODE = "en"
USE_I18N = False
USE_TZ = True
TIME_ZONE = os.environ.get("LASH_TIME_ZONE", "UTC")

STATIC_URL = "/static/"
STATIC_ROOT = os.environ.get("LASH_STATIC_ROOT", str(ROOT / "static-collected"))
STATICFILES_DIRS = [ROOT / "shop" / "static"]
MEDIA_ROOT = os.environ.get("LASH_MEDIA_ROOT", str(ROOT / "media"))
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
# A job file of 20 MB is refused in words, not by a cut connection; its page sets its own limit.
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 1024 * 1024

SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SECURE_PROXY_SSL_HEADER: tuple[str, str] | None = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_REFERRER_POLICY = "same-origin"
SESSION_COOKIE_SECURE = True
SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
CSRF_COOKIE_SECURE = True
CSRF_COOKIE_HTTPONLY = False
CSRF_FAILURE_VIEW = "shop.config.views.stale_form"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "media-src": [SELF],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
    }
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
# What loads the demo shop.
LASH_DEMO = "demo.load.load_demo"
# "host:port" of the simulated or real instruments; empty: there are none and Take is not offered.
LASH_INSTRUMENT = os.environ.get("LASH_INSTRUMENT", "")
