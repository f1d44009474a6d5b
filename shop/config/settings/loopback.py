"""What one machine without TLS needs otherwise: plain http on 127.0.0.1, nothing more."""

from shop.config.settings.production import *

SECURE_SSL_REDIRECT = False
SECURE_HSTS_SECONDS = 0
SECURE_PROXY_SSL_HEADER = None
SESSION_COOKIE_SECURE = False
CSRF_COOKIE_SECURE = False
