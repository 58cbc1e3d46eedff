"""What was denied to an ordinary user, had from the helper where there is one."""

from haremile_probe.collect.sources import Sources, fault_of
from haremile_probe.wire import Fault


def ask_for_denied(sources: Sources, name: str, verb: str) -> None:
    """Where the text of this name was denied, ask the helper for it; its fault then goes.

    Without a helper the fault stays, and says that one would have read it.
    """
    denied = [one for one in sources.faults if one.kind == "denied" and one.what.startswith(name)]
    if not denied:
        return
    from haremile_probe.helper.client import HelperRefused, ask

    try:
        told = ask(verb)
    except PermissionError as error:
        what = "%s (%s)" % (denied[0].what, error.strerror)
        sources.faults[sources.faults.index(denied[0])] = Fault("denied", what)
        return
    except (OSError, HelperRefused) as error:
        fault = fault_of(error, name) if isinstance(error, OSError) else Fault("denied", str(error))
        sources.faults.append(fault)
        return
    for fault in denied:
        sources.faults.remove(fault)
    for key, text in told.get("texts", {}).items():
        sources.add(str(key), str(text))
    sources.faults += [Fault(str(kind), str(what)) for kind, what in told.get("faults", [])]
