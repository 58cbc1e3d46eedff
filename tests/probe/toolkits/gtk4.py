import gi

gi.require_version("Gtk", "4.0")
from gi.repository import Gtk  # noqa: E402


def shown(application):
    window = Gtk.ApplicationWindow(
        application=application, title="gtk4", default_width=500, default_height=400
    )
    window.set_child(Gtk.Label(label="Seeds\n" * 12))
    window.present()


made = Gtk.Application(application_id=None)
made.connect("activate", shown)
made.run()
