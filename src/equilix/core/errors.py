"""Errors that a user can mend. Anything else that escapes is a fault in the program."""


class EquilixError(Exception):
    """Base of all errors whose message is one plain sentence meant for the user."""


class MassPropertiesError(EquilixError):
    """Mass, centre of gravity or inertia can't be formed from what was given."""


class AssemblyError(EquilixError):
    """A build's tree of parts doesn't hold together."""


class MeasurementError(AssemblyError):
    """A measurement can't be made, or its readings don't give a figure."""


class DeviceError(EquilixError):
    """An instrument can't be reached, or says something that isn't a reading."""


class EditError(EquilixError):
    """An edit can't be applied to this book."""


class FormatError(EquilixError):
    """A file can't be read or written."""


class NotWritten(FormatError):
    """A file can't be written there: what is left to do is to save a copy somewhere else."""
