"""The seal of a job file: whether it is as this shop exported it, and where a job that came in is from."""

from collections.abc import Mapping
from typing import Any, Final

from django.utils import timezone

from shop.jobs import clock, keys
from shop.jobs.exchange.write import write_job
from shop.jobs.models import Job
from shop.people.models import Shop, User

_PURPOSE: Final = "job file"


def sealed(job: Job) -> dict[str, Any]:
    """A job's file with what tells an intact one from an altered one."""
    data = write_job(job)
    if job.came_from:
        data["came_from"] = job.came_from
    about = {
        "shop": str(job.shop.identity),
        "shop_name": job.shop.name,
        "exported_at": timezone.now().isoformat(),
    }
    return data | {"seal": about | {"digest": _digest(job.shop, data, about)}}


def origin_of(user: User, shop: Shop, data: Mapping[str, Any]) -> dict[str, Any]:
    """Who brings a file in, when, and what its seal says; kept with the job."""
    return {
        "by": user.called,
        "at": clock.now().isoformat(),
        "number": data["job"]["number"],
        "seal": _verdict(shop, data),
    }


def _verdict(shop: Shop, data: Mapping[str, Any]) -> str:
    seal = data.get("seal")
    if seal is None:
        return "without a seal: nobody can tell whether it was altered"
    about = {name: seal[name] for name in ("shop", "shop_name", "exported_at")}
    if seal["shop"] != str(shop.identity):
        return f"sealed by another shop ({seal['shop_name']}), which alone can check it"
    rest = {name: value for name, value in data.items() if name != "seal"}
    day = seal["exported_at"][:10]
    if keys.is_digest(shop, _PURPOSE, _content(rest, about), seal["digest"]):
        return f"unaltered since this shop exported it on {day}"
    return f"ALTERED since this shop exported it on {day}"


def _digest(shop: Shop, data: Mapping[str, Any], about: Mapping[str, Any]) -> str:
    return keys.digest(shop, _PURPOSE, _content(data, about))


def _content(data: Mapping[str, Any], about: Mapping[str, Any]) -> str:
    return keys.canonical({"file": data, "seal": about})
