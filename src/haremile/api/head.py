"""HEAD: what GET would answer, without its body."""

import asyncio

from starlette.types import ASGIApp, Message, Receive, Scope, Send

IS_HEAD = "is_head"
"""Set where only a head is asked for: nothing is used up by it."""


class HeadAnswers:
    """Answers HEAD by the head of GET's answer; the rest of it is not even waited for."""

    def __init__(self, app: ASGIApp):
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, or answer HEAD."""
        if scope["type"] != "http" or scope["method"] != "HEAD":
            return await self._app(scope, receive, send)
        is_done = asyncio.Event()

        async def head_only(message: Message) -> None:
            if message["type"] == "http.response.start":
                await send(message)
                await send({"type": "http.response.body", "body": b"", "more_body": False})
                is_done.set()

        scope.setdefault("state", {})[IS_HEAD] = True
        asked = asyncio.ensure_future(self._app({**scope, "method": "GET"}, receive, head_only))
        told = asyncio.ensure_future(is_done.wait())
        await asyncio.wait({asked, told}, return_when=asyncio.FIRST_COMPLETED)
        told.cancel()
        if not asked.done():
            asked.cancel()
        await asyncio.gather(asked, told, return_exceptions=True)
        if asked.done() and not asked.cancelled() and not is_done.is_set():
            asked.result()
