"""The secret by which a shop's records and files are told from altered ones."""

import hashlib
import hmac
import json
from typing import Any

from django.conf import settings

from shop.people.models import Shop


def digest(shop: Shop, purpose: str, content: str) -> str:
    """HMAC-SHA-256 (RFC 2104) of a text, by a key of this shop and purpose, in hexadecimal."""
    name = f"{purpose} {shop.identity}".encode()
    key = hmac.digest(settings.LASH_RECORD_KEY.encode(), name, hashlib.sha256)
    return hmac.new(key, content.encode(), hashlib.sha256).hexdigest()


def is_digest(shop: Shop, purpose: str, content: str, given: str) -> bool:
    """Whether a digest is the shop's own of this text."""
    return hmac.compare_digest(digest(shop, purpose, content), given)


def canonical(data: Any) -> str:
    """Plain data as one text, the same whatever the order of its names."""
    return json.dumps(data, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
