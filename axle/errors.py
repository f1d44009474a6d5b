"""The one error of the core: what was given, what is wanted, what to do."""


class AxleError(ValueError):
    """Something given to the core that it cannot work with, said in words a builder can use.

    :param what: what the value is for, in the trade's words, such as "backlash".
    :param given: the value as it was given, with its unit.
    :param wanted: what would have been accepted.
    :param do: what to do next, one short sentence.

    >>> str(AxleError("backlash", given="-3 thou", wanted="0 or more", do="Read it again."))
    'backlash: -3 thou was given; 0 or more is wanted. Read it again.'
    """

    def __init__(self, what: str, *, given: str, wanted: str, do: str = "") -> None:
        self.what = what
        self.given = given
        self.wanted = wanted
        self.do = do
        super().__init__(f"{what}: {given} was given; {wanted} is wanted. {do}".rstrip())


def quoted(text: str, most: int = 40) -> str:
    """Repeat what somebody gave, in quotes, or say that it was nothing.

    :param text: as given.
    :param most: characters shown.
    :source: the project's own words.

    >>> quoted(" soon "), quoted("")
    ('“soon”', 'nothing')
    """
    shown = text.strip()[:most]
    return f"“{shown}”" if shown else "nothing"
