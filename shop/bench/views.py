"""The bench: one page per job, answered in pieces."""

from dataclasses import replace
from decimal import Decimal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from axle.advice.inspection import Verdict
from axle.advice.progress import Mark
from axle.depth.marks import LARGE_MARK, MarkConvention, read_mark
from axle.errors import AxleError
from axle.layout import Place
from axle.procedure.stations import kind_named, station_of, stations
from axle.units import HOLE, as_meant, echo, parse, question
from shop.bench import chances, packs, taking
from shop.bench.answers import answer, change_job
from shop.bench.page import Asked
from shop.bench.typed import KEPT, typed_reading
from shop.config.http import entry_of, one_of, plain_number, posts_only, user_of, version_of, whole_number
from shop.instruments import line
from shop.instruments.queries import past_full_scale
from shop.jobs import bolts, bridge, carrier, photos, queries, services, simulated, timers, work
from shop.jobs.models import Job, Reading
from shop.jobs.work import OutOfOrder
from shop.people.bridge import display_for


def bench(request: HttpRequest, number: int) -> HttpResponse:
    """The main screen of one job."""
    asked = Asked(
        station=request.GET.get("station", ""),
        kind=request.GET.get("kind", ""),
        place=plain_number(request.GET.get("place"), 0),
        step=request.GET.get("step", ""),
        view=request.GET.get("view", ""),
        kept={name: request.GET[name] for name in ("mark", "convention") if name in request.GET},
    )
    return answer(request, number, asked)


def held_chances(request: HttpRequest) -> HttpResponse:
    """How well the chances that were given have held in this shop."""
    found = chances.bands_of(user_of(request).shop)
    return render(
        request, "bench/chances.html", {"bands": found, "count": sum(band.count for band in found)}
    )


@posts_only
def confirm_mark(request: HttpRequest, number: int) -> HttpResponse:
    """Say what the mark on the pinion means."""
    typed, convention = request.POST.get("mark", ""), request.POST.get("convention", "")
    unit = request.POST.get("unit", "") or "thou"
    kept = {"mark": typed, "convention": convention, "unit": unit}
    asked = Asked(station="depth", view="mark", kept=kept)

    def put(job: Job) -> Asked:
        mark = read_mark(typed, unit)
        services.one_mark(mark, convention)
        large = convention != MarkConvention.DISTANCE.value and abs(float(mark.core)) > LARGE_MARK
        if large and request.POST.get("questioned") != f"{typed} {unit}":
            words = f"{echo(mark)}? That is a large mark. Is its unit right? The same again keeps it."
            return replace(asked, question=words)
        services.confirm_mark(user_of(request), job, version_of(request), mark, convention)
        return Asked(station="depth", notice="The mark is confirmed: depth is worked out with it.")

    return change_job(request, number, asked, put)


@posts_only
def step(request: HttpRequest, number: int) -> HttpResponse:
    """Mark a step begun, done, taken back, or passed with a signed reason."""
    given = request.POST
    name, station = given.get("step", ""), given.get("station", "")
    shown = station in stations() and not stations()[station].is_measured
    asked = Asked(station=station, step=name, typed=given.get("reason", ""))

    def put(job: Job) -> Asked:
        mark = one_of(Mark, given.get("mark"), "mark")
        try:
            work.mark_step(
                user_of(request),
                job,
                version_of(request),
                name,
                mark,
                entry_of(given.get("entry")),
                reason=given.get("reason", ""),
                knowing=bool(given.get("knowing")),
            )
        except OutOfOrder as problem:
            return replace(asked, out_of_order=problem)
        if mark is Mark.DONE:
            return Asked(station=station, moves_on=shown)
        return asked

    return change_job(request, number, asked, put)


@posts_only
def station_done(request: HttpRequest, number: int) -> HttpResponse:
    """Mark every step of a station done that nothing holds."""
    station = request.POST.get("station", "")

    def put(job: Job) -> Asked:
        count, held = work.finish_station(user_of(request), job, version_of(request), station)
        words = f"{count} step{'s' if count != 1 else ''} done."
        if held:
            words += f" Held: {'; '.join(s.step.title.lower() for s in held[:4])}."
        return Asked(station=station, moves_on=True, notice=words)

    return change_job(request, number, Asked(station=station), put)


@posts_only
def waive_all(request: HttpRequest, number: int) -> HttpResponse:
    """Sign past every open hold with one reason."""
    reason = request.POST.get("reason", "")

    def put(job: Job) -> Asked:
        count = work.waive_all(user_of(request), job, version_of(request), reason)
        return Asked(station="sheet", notice=f"{count} holds signed past: each stands on the sheet.")

    return change_job(request, number, Asked(station="sheet", typed=reason), put)


@posts_only
def timer(request: HttpRequest, number: int) -> HttpResponse:
    """Start a wait."""
    given = request.POST
    asked = Asked(station=given.get("station", ""), step=given.get("step", ""))

    def put(job: Job) -> Asked:
        minutes = whole_number(given.get("minutes"), "minutes", 1, timers.LONGEST)
        made = timers.start(user_of(request), job, given.get("title", ""), minutes, given.get("step", ""))
        return replace(asked, notice=f"Running: {made.title}, {made.minutes} min.")

    return change_job(request, number, asked, put)


@posts_only
def photo(request: HttpRequest, number: int) -> HttpResponse:
    """Keep a photo on a step."""
    given = request.POST
    asked = Asked(station=given.get("station", ""), step=given.get("step", ""))

    def put(job: Job) -> Asked:
        file = request.FILES.get("photo")
        if file is None:
            raise AxleError("photo", given="nothing", wanted="a picture from the camera or a file")
        photos.keep(
            user_of(request),
            job,
            version_of(request),
            asked.step,
            file,
            file.size or 0,
            entry_of(given.get("entry")),
            given.get("caption", ""),
        )
        return replace(asked, notice="Photo kept, without its location.")

    return change_job(request, number, asked, put)


@posts_only
def tighten(request: HttpRequest, number: int) -> HttpResponse:
    """Sign one stage of one group of fasteners; question a torque that cannot be meant."""
    given = request.POST
    typed, group = given.get("value", ""), given.get("group", "")
    asked = Asked(station="torque", typed=typed)

    def put(job: Job) -> Asked:
        user = user_of(request)
        display = display_for(user)
        quantity = bolts.at_the_bolt(
            parse(typed, display.bolt_torque, "torque"),
            given.get("length", ""),
            given.get("adapter", ""),
            given.get("angle", ""),
        )
        doubt = bolts.doubt(job, group, quantity)
        if doubt and given.get("questioned") != typed.strip():
            return replace(asked, question=doubt, entry=given.get("entry", ""))
        bolts.sign_stage(
            user,
            job,
            version_of(request),
            group,
            whole_number(given.get("stage"), "stage", 1, 20),
            quantity,
            entry_of(given.get("entry")),
            given.get("words", ""),
        )
        return Asked(station="torque", moves_on=True)

    return change_job(request, number, asked, put)


@posts_only
def reading(request: HttpRequest, number: int) -> HttpResponse:
    """Store one reading; question what is unusual once, and refuse what cannot be."""
    given = request.POST
    typed, kind_name = given.get("value", ""), given.get("kind", "")
    asked = Asked(
        given.get("station", ""),
        kind_name,
        _place(given.get("place")),
        typed,
        kept={name: given[name] for name in KEPT if name in given},
    )

    def store(job: Job) -> Asked:
        kind = kind_named(kind_name)
        display = display_for(user_of(request))
        quantity, conditions = typed_reading(kind, given.dict(), display)
        kind.check(quantity.core, quantity.text, quantity.unit)
        home = display.unit_for(kind.dimension, bolt=kind.bolt)
        doubt = question(quantity, kind.plausible, kind.finest, home)
        if doubt is None and given.get("tool"):
            doubt = past_full_scale(job.shop, whole_number(given["tool"], "instrument"), quantity)
        current = job.version == version_of(request)
        again = bool(conditions.get("again"))
        if (
            doubt is None
            and current
            and not again
            and services.read_already(job, kind, asked.place, conditions)
        ):
            words = f"Place {asked.place} is read already on this setting. Another place, or read it again?"
            doubt = (words, None)
        if doubt and given.get("questioned") != typed.strip():
            words, meant = doubt
            return replace(
                asked,
                question=words,
                suggestion=as_meant(quantity, meant) if meant else "",
                entry=given.get("entry", ""),
            )
        services.take_reading(
            user_of(request),
            job,
            version_of(request),
            kind=kind_name,
            place=asked.place,
            quantity=quantity,
            entry=entry_of(given.get("entry")),
            confidence=one_of(Reading.Confidence, given.get("confidence", "fixture"), "confidence"),
            instrument=given.get("instrument", "")[:80],
            conditions=conditions,
            tool=whole_number(given["tool"], "instrument") if given.get("tool") else None,
        )
        return Asked(station=station_of(kind_name), moves_on=True)

    return change_job(request, number, asked, store)


@posts_only
def undo(request: HttpRequest, number: int) -> HttpResponse:
    """Strike the newest reading."""
    asked = Asked(station=request.POST.get("station", ""))

    def strike(job: Job) -> Asked:
        row = services.strike_last(user_of(request), job, version_of(request), "undone at the bench")
        assert row is not None  # strike_last refuses when there is nothing to strike
        kind = kind_named(row.kind)
        return Asked(
            station=station_of(row.kind),
            kind=row.kind,
            place=row.place,
            notice=f"Struck: {kind.title.lower()}. The reading stays on record.",
        )

    return change_job(request, number, asked, strike)


@posts_only
def way(request: HttpRequest, number: int) -> HttpResponse:
    """Settle a station by another way of measuring."""
    station, chosen = request.POST.get("station", ""), request.POST.get("way", "")

    def choose(job: Job) -> Asked:
        services.choose_way(user_of(request), job, version_of(request), station, chosen)
        return Asked(station=station)

    return change_job(request, number, Asked(station=station), choose)


@posts_only
def take_move(request: HttpRequest, number: int) -> HttpResponse:
    """Do the next move."""

    def take(job: Job) -> Asked:
        move = services.take_move(user_of(request), job, version_of(request))
        return Asked(notice=f"{move.title}: fitted from the drawer, assembly {move.assembly.number}.")

    return change_job(request, number, Asked(station=request.POST.get("station", "")), take)


@posts_only
def sign(request: HttpRequest, number: int) -> HttpResponse:
    """Sign a station, with a reason where it is out of range; or the whole sheet."""
    station, reason = request.POST.get("station", ""), request.POST.get("reason", "")
    given = {name: request.POST.get(name, "")[:200] for name in ("verdict", "work", "until")}
    asked = Asked(station=station, typed=reason, kept=given if "verdict" in request.POST else {})

    def put(job: Job) -> Asked:
        verdict = Verdict(**given) if "verdict" in request.POST else None
        services.sign(user_of(request), job, version_of(request), station, reason, verdict)
        return Asked(station=station, moves_on=True, notice="Signed.")

    return change_job(request, number, asked, put)


@posts_only
def reopen(request: HttpRequest, number: int) -> HttpResponse:
    """Open a signed job again."""
    reason = request.POST.get("reason", "")

    def put(job: Job) -> Asked:
        services.reopen(user_of(request), job, version_of(request), reason)
        return Asked(notice="Open again. The earlier signature stays on record.")

    return change_job(request, number, Asked(station="sheet", typed=reason), put)


@posts_only
def adjusters(request: HttpRequest, number: int) -> HttpResponse:
    """Record how far both adjusters are turned in."""
    station = request.POST.get("station", "carrier_preload")

    def put(job: Job) -> Asked:
        holes: list[Decimal] = []
        for name, words in (("ring", "ring-side adjuster"), ("far", "far-side adjuster")):
            typed = parse(request.POST.get(name, ""), HOLE, words)
            if not -200 <= typed.value <= 200 or typed.value % Decimal("0.25"):
                raise AxleError(words, given=f"“{typed.text}”", wanted="holes in quarters, −200 to 200")
            holes.append(typed.value)
        knowing = bool(request.POST.get("knowing"))
        try:
            carrier.set_adjusters(
                user_of(request), job, version_of(request), holes[0], holes[1], knowing=knowing
            )
        except carrier.Harmful as harm:
            kept = {"ring": request.POST.get("ring", ""), "far": request.POST.get("far", "")}
            return Asked(station=station, harm=str(harm), kept=kept)
        return Asked(station=station, notice="Adjusters recorded.")

    return change_job(request, number, Asked(station=station), put)


@posts_only
def places(request: HttpRequest, number: int) -> HttpResponse:
    """Read backlash at another number of places around the ring."""
    chosen = request.POST.get("lash_places", "")

    def put(job: Job) -> Asked:
        work.choose(user_of(request), job, version_of(request), {"lash_places": chosen})
        return Asked(station="backlash")

    return change_job(request, number, Asked(station="backlash"), put)


@posts_only
def sleeve(request: HttpRequest, number: int) -> HttpResponse:
    """Record that a new sleeve is in."""

    def put(job: Job) -> Asked:
        services.new_sleeve(user_of(request), job, version_of(request))
        return Asked(station="pinion_preload", notice="New sleeve: its readings start again.")

    return change_job(request, number, Asked(station="pinion_preload"), put)


def take(request: HttpRequest, number: int) -> HttpResponse:
    """Read the chosen instrument into the entry; it is stored by Next, as a typed one is.

    Asked to wait until it is steady, the answer asks again by itself until the reading has held.
    """
    user, given = user_of(request), request.GET
    job = queries.job_of(user, number)
    shown: dict[str, object] = {"value": given.get("value", ""), "job": job, "taken": True}
    try:
        kind = kind_named(given.get("kind", ""))
        shown["unit_symbol"] = display_for(user).unit_for(kind.dimension, bolt=kind.bolt).symbol
        places = whole_number(given["places"], "places", 1, 99) if given.get("places") else 0
        at = _place(given.get("place"))
        read = simulated.take(job, kind, at, places, given.get("pushed", ""))
        if read is not None:
            name, taken = simulated.SET, read
        else:
            name, wire = taking.chosen(user, given.get("tool", ""))
            taken = line.take(kind, at, places, wire)
        shown |= {"value": taken.text, "instrument": name}
        if given.get("steady"):
            shown |= taking.watch(kind, taken, given.get("seen", ""), given.get("value", ""))
    except AxleError as problem:
        shown["error"] = str(problem)
    return render(request, "bench/partials/value.html", shown)


def pack(request: HttpRequest, number: int) -> HttpResponse:
    """Offer packs for a wanted thickness, or for named pieces, out of the drawer."""
    user = user_of(request)
    axle = bridge.load(queries.job_of(user, number), display_for(user))
    place, wanted = request.GET.get("place", ""), request.GET.get("wanted", "")
    station = request.GET.get("station", "")
    error, offers, made = "", [], None
    shapes: list[str] = []
    try:
        where = one_of(Place, place, "place")
        shapes = packs.shapes(axle, where)
        if wanted.strip():
            made = packs.made_for(axle, where, wanted)
            offers = packs.offers(axle, where, wanted)
    except AxleError as problem:
        error = str(problem)
    return render(
        request,
        "bench/partials/pack.html",
        {
            "axle": axle,
            "job": axle.job,
            "display": axle.display,
            "place": place,
            "wanted": wanted,
            "error": error,
            "offers": offers,
            "made": made,
            "station_name": station,
            "shapes": shapes,
            "shape": axle.job.shapes.get(place, ""),
        },
    )


@posts_only
def shape(request: HttpRequest, number: int) -> HttpResponse:
    """Say which shape of shim a place takes."""
    station = request.POST.get("station", "")

    def put(job: Job) -> Asked:
        place, chosen = one_of(Place, request.POST.get("place"), "place"), request.POST.get("shape", "")
        services.choose_shape(user_of(request), job, version_of(request), place, chosen)
        words = (
            f"Only shims of the shape “{chosen}” are offered there."
            if chosen
            else "Only shims without a named shape are offered."
        )
        return Asked(station=station, notice=words)

    return change_job(request, number, Asked(station=station), put)


@posts_only
def fit(request: HttpRequest, number: int) -> HttpResponse:
    """Fit a pack by hand."""
    station = request.POST.get("station", "")

    def put(job: Job) -> Asked:
        lots = [whole_number(lot, "shim") for lot in request.POST.get("lots", "").split(",") if lot]
        place = one_of(Place, request.POST.get("place"), "place")
        services.fit_pack(user_of(request), job, version_of(request), place, lots)
        return Asked(station=station, notice="Fitted from the drawer.")

    return change_job(request, number, Asked(station=station), put)


def _place(text: str | None) -> int:
    return plain_number(text, 1)
