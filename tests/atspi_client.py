"""A client of the accessibility bus, as a screen reader is one. Run by the system's Python, which has its bindings.

Reads one request a line, as JSON, from standard input, and answers each with a line: {"walk": true} gives all that is
showing; {"act": NAME, "action": "Increase"} does it; {"heard": true} gives what was announced so far.
"""

import json
import os
import sys
import time

import gi
from gi.repository import Gio, GLib

HEARD = []


def bus_stands():
    """Wait until the launcher has started the accessibility bus: the library gives up at once."""
    session = Gio.bus_get_sync(Gio.BusType.SESSION)
    for _ in range(100):
        try:
            told = session.call_sync(
                "org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus", "GetAddress", None, None, Gio.DBusCallFlags.NONE, 5000
            )
            if told.unpack()[0]:
                return
        except GLib.Error as error:
            print(error, file=sys.stderr)
        time.sleep(0.1)


bus_stands()
gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402


def application():
    for _ in range(300):
        desktop = Atspi.get_desktop(0)
        for index in range(desktop.get_child_count()):
            found = desktop.get_child_at_index(index)
            if found is not None and found.get_name() == "Ondine" and found.get_child_count():
                return found
        time.sleep(0.1)
    raise SystemExit("no application on the bus")


def showing(node):
    states = node.get_state_set()
    if states.contains(Atspi.StateType.SHOWING):
        yield node
    for index in range(node.get_child_count()):
        child = node.get_child_at_index(index)
        if child is not None:
            yield from showing(child)


def facts(node):
    value = node.get_value_iface()
    action = node.get_action_iface()
    parent = node.get_parent()
    return {
        "role": node.get_role_name(),
        "name": node.get_name(),
        "in": parent.get_name() if parent else "",
        "value": value.get_current_value() if value else None,
        "actions": [action.get_action_name(i) for i in range(action.get_n_actions())] if action else [],
        "focusable": node.get_state_set().contains(Atspi.StateType.FOCUSABLE),
    }


def act(app, name, action):
    for node in showing(app):
        if node.get_name() == name:
            does = node.get_action_iface()
            names = [does.get_action_name(i) for i in range(does.get_n_actions())] if does else []
            if action in names:
                return does.do_action(names.index(action))
    return False


def answered(app, asked):
    try:
        return answer(app, asked)
    except GLib.Error as error:
        # What was there a moment ago may be gone: whoever asks, asks again.
        print(error, file=sys.stderr)
        return []


def answer(app, asked):
    if "walk" in asked:
        return [facts(node) for node in showing(app)]
    if "parts" in asked:
        view = next((node for node in showing(app) if node.get_name() == asked["parts"]), None)
        return [] if view is None else [facts(node) for node in showing(view) if node != view]
    if "act" in asked:
        return act(app, asked["act"], asked["action"])
    return HEARD


def main():
    # One thread alone: the library is not made for two.
    app = application()
    listener = Atspi.EventListener.new(lambda event: HEARD.append(str(event.any_data)))
    listener.register("object:announcement")

    def asked(source, condition):
        line = sys.stdin.readline()
        if not line:
            # Not by the library's own way out, which waits for a bus that may be busy.
            os._exit(0)
        print(">", json.dumps(answered(app, json.loads(line))), flush=True)
        return True

    GLib.io_add_watch(sys.stdin.fileno(), GLib.IO_IN | GLib.IO_HUP, asked)
    print(">", json.dumps({"ready": True}), flush=True)
    Atspi.event_main()


main()
