"""A job and everything that is recorded on it, one file a subject."""

from shop.jobs.models.append_only import AppendOnly
from shop.jobs.models.assembly import Assembly, Fit, Move, PackPiece, Position
from shop.jobs.models.chain import ChainLink
from shop.jobs.models.figures import JobFigure
from shop.jobs.models.job import Job, Place
from shop.jobs.models.money import CustomerAnswer, MoneySheet, Payment
from shop.jobs.models.noted import NoiseLine, RatioLine, RoadLine
from shop.jobs.models.parts import Delivery, Order, PartLine
from shop.jobs.models.practice import PracticeRun
from shop.jobs.models.readings import Pattern, PrintMade, Reading, SignOff
from shop.jobs.models.sound import SoundFile, SoundWork, sound_path
from shop.jobs.models.work import (
    CarrierLine,
    Finding,
    Photo,
    RegisterLine,
    StepMark,
    Tightening,
    Timer,
    photo_path,
)

__all__ = [
    "AppendOnly",
    "Assembly",
    "CarrierLine",
    "ChainLink",
    "CustomerAnswer",
    "Delivery",
    "Finding",
    "Fit",
    "Job",
    "JobFigure",
    "MoneySheet",
    "Move",
    "NoiseLine",
    "Order",
    "PackPiece",
    "PartLine",
    "Pattern",
    "Payment",
    "Photo",
    "Place",
    "Position",
    "PracticeRun",
    "PrintMade",
    "RatioLine",
    "Reading",
    "RegisterLine",
    "RoadLine",
    "SignOff",
    "SoundFile",
    "SoundWork",
    "StepMark",
    "Tightening",
    "Timer",
    "photo_path",
    "sound_path",
]
