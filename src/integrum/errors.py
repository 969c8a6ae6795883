"""Every exception that Integrum raises on purpose.

All of them are caused by something that the caller can see and change, except `LedgerError`:

    IntegrumError                  catch this one to catch them all
    ├── PlanError                  the plan is wrong; says where in the plan, and what was expected
    ├── NothingFound               no source was found; says which place gave nothing and what is there
    ├── OutputError                the output or the record cannot be written where it was asked for
    ├── ConditionError             a condition on rows cannot be understood; says which part of it
    ├── WorkersLost                the processes or the cluster that did the work are gone; nothing was written
    ├── ExtraNeeded                an optional part is not installed; says how to install it
    ├── StoppedAtFirst             a source has to be set aside, and the run was told to stop there; nothing was written
    ├── SourceFault                one source cannot be read; a run sets it aside (see `integrum.problems.problem`)
    └── LedgerError                rows in are not rows out: a fault of Integrum, nothing was written
"""

from importlib.util import find_spec


class IntegrumError(Exception):
    """The root of all that Integrum raises on purpose."""


class PlanError(IntegrumError):
    """The plan is wrong.

    Parameters
    ----------
    message
        What was expected and what came.
    place
        Where in the plan, such as ``columns[2] "water_temp", key type``.
    """

    def __init__(self, message: str, place: str = "") -> None:
        super().__init__(message, place)
        self.message = message
        self.place = place

    def __str__(self) -> str:
        return f"{self.place}: {self.message}" if self.place else self.message

    def within(self, outer: str) -> "PlanError":
        """Give the same error with its place seen from further out."""
        return PlanError(self.message, f"{outer}, {self.place}" if self.place else outer)


class NothingFound(IntegrumError):
    """No source was found where the plan says that there are some."""


class OutputError(IntegrumError):
    """The output or the record cannot be written where it was asked for."""


class ConditionError(IntegrumError):
    """A condition on the rows of a table cannot be understood."""


class WorkersLost(IntegrumError):
    """The processes or the cluster that did the work are no longer there; nothing was written."""


class ExtraNeeded(IntegrumError):
    """What was asked for needs packages that are not installed.

    Parameters
    ----------
    what
        What was asked for, such as ``"a report"``.
    extra
        The extra of Integrum that has them.
    """

    def __init__(self, what: str, extra: str) -> None:
        super().__init__(f"{what} needs more packages; install them: pip install 'integrum[{extra}]'")


# what pages and figures are made with
PAGES_NEED = ("jinja2", "matplotlib")


def check_extra(what: str, extra: str, *packages: str) -> None:
    """Make sure that the packages of an extra are installed.

    Raises ExtraNeeded when one is not.

    Examples
    --------
    >>> check_extra("a page", "pages", "no_such_package")
    Traceback (most recent call last):
    ...
    integrum.errors.ExtraNeeded: a page needs more packages; install them: pip install 'integrum[pages]'
    """
    if any(find_spec(package) is None for package in packages):
        raise ExtraNeeded(what, extra)


class StoppedAtFirst(IntegrumError):
    """A source has to be set aside, and the run was told to stop at the first such one; nothing was written."""


class LedgerError(IntegrumError):
    """The rows of a source do not add up; nothing was written."""
