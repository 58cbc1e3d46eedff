import gi

gi.require_version("Gtk", "3.0")
from gi.repository import Gtk  # noqa: E402

window = Gtk.Window(title="gtk3", default_width=500, default_height=400)
window.add(Gtk.Label(label="Seeds\n" * 12))
window.show_all()
Gtk.main()
