"""The guest rig: boots a real system in a fresh QEMU process and measures it."""

from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path
from uuid import UUID

from haremile.core.records.procedures import BY_A_RIG, PROCEDURES
from haremile.core.records.study import Install
from haremile.errors import NotMeasuredError, RunFailedError
from haremile.rigs.guest.boot import BootMaker
from haremile.rigs.guest.build import NAMES, GuestImages
from haremile.rigs.guest.host_watch import wait_until_calm
from haremile.rigs.guest.image_boot import ImageBoots
from haremile.rigs.guest.least_memory import least_memory
from haremile.rigs.guest.machine import GuestMachine
from haremile.rigs.guest.recipe import tools_disk
from haremile.rigs.guest.spec import GuestSpec
from haremile.rigs.guest.tiny_boot import BootLimits, TinyBoots
from haremile.usecases.ports import GuestView, ReportPhase, RunOrder, SettleWatch
from haremile_probe.wire import Capture

LOG_TAIL_LINES = 40
SEEN_LINES = 6


class GuestRig:
    """Boots systems in fresh QEMU processes and measures them.

    Parameters
    ----------
    images : GuestImages
        The tiny systems; those built from Debian's packages lie beside them.
    accelerator : callable
        Tells which accelerator was proved to work here.
    new_watch : callable
        Makes a fresh settle watch for each boot of a tiny system.
    clock : str
        ``host``, or ``counted``: the guest's clock counts instructions, and only work is reported.
    archive : callable, optional
        Gives the path of the probe's archive, for systems with the agent inside.
    calm_s : float
        How long a boot waits at most until the host is calm.
    """

    def __init__(
        self,
        images: GuestImages,
        accelerator: Callable[[], str],
        new_watch: Callable[[], SettleWatch],
        clock: str = "host",
        limits: BootLimits | None = None,
        archive: Callable[[], Path] | None = None,
        calm_s: float = 0.0,
    ):
        self._tiny = TinyBoots(images, new_watch, limits or BootLimits())
        self._images_on_disk = ImageBoots(images.root)
        self._accelerator = accelerator
        self._clock = clock
        self._archive = archive
        self._calm_s = calm_s
        self._at_work: dict[UUID, GuestMachine] = {}
        self._searching: set[UUID] = set()

    @property
    def procedures(self) -> frozenset[str]:
        """What this rig can do; other than boots only with the agent inside."""
        return BY_A_RIG

    def check(self, install: Install) -> None:
        """Raises BadInputError or MissingHereError where its recipe is not valid here."""
        maker = self._maker(install)
        with self._tools(maker) as tools:
            self._spec(maker, RunOrder(UUID(int=0), 1, "boot", install, 0, 1, 1), tools)
        maker.check(install)

    def spec(self, order: RunOrder, tools: Path | None = None) -> GuestSpec:
        """The virtual machine that an order asks for."""
        return self._spec(self._maker(order.install), order, tools)

    def _spec(self, maker: BootMaker, order: RunOrder, tools: Path | None) -> GuestSpec:
        clock = order.install.recipe.get("clock", self._clock)
        return maker.spec(order, "tcg" if clock == "counted" else self._accelerator(), clock, tools)

    def _maker(self, install: Install) -> BootMaker:
        return self._tiny if install.recipe.get("image", "") in NAMES else self._images_on_disk

    def _tools(self, maker: BootMaker) -> AbstractContextManager[Path | None]:
        return tools_disk(self._archive if maker.needs_tools() else None)

    def run(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        """Boot once, from power-on to powered off; or as often as a search takes."""
        if not PROCEDURES[order.procedure].varies_memory:
            return self._boot(order, report_phase)
        self._searching.add(order.run_id)

        def boot(one: RunOrder) -> Capture:
            if order.run_id not in self._searching:
                raise NotMeasuredError("the search was ended")
            return self._boot(one, lambda _name, _at: None)

        try:
            return least_memory(order, boot, report_phase)
        finally:
            self._searching.discard(order.run_id)

    def _boot(self, order: RunOrder, report_phase: ReportPhase) -> Capture:
        maker = self._maker(order.install)
        wait_until_calm(self._calm_s, lambda waited: report_phase("waits for a calm host", waited))
        with (
            self._tools(maker) as tools,
            GuestMachine(self._spec(maker, order, tools)) as guest,
        ):
            self._at_work[order.run_id] = guest
            boot = maker.boot(guest, order, report_phase)
            try:
                return boot.run()
            except RunFailedError as error:
                error.log_tail = "\n".join(guest.serial.text().splitlines()[-LOG_TAIL_LINES:])
                error.evidence = tuple(boot.evidence())
                raise
            finally:
                self._at_work.pop(order.run_id, None)

    def view(self, run_id: UUID) -> GuestView:
        """What is seen of the guest of a run; nothing where it does not run."""
        guest = self._at_work.get(run_id)
        if guest is None:
            return GuestView((), None)
        lines = [line for line in guest.serial.text().splitlines() if line.strip()]
        try:
            picture = guest.picture() if guest.spec.has_screen else None
        except (RunFailedError, OSError):
            picture = None  # it ended just now
        return GuestView(lines[-SEEN_LINES:], picture)

    def interrupt(self, run_id: UUID | None = None) -> None:
        """End the guest of this run, or all that run now."""
        self._searching -= {run_id} if run_id is not None else set(self._searching)
        for key, guest in list(self._at_work.items()):
            if run_id in (None, key):
                guest.kill()
