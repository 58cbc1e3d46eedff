"""The page that somebody sees who is not signed in: how to come in. It needs no script."""

from html import escape

from starlette.responses import HTMLResponse

STYLE = """
:root { color-scheme: light dark; --paper: #f6f1e6; --sheet: #fffdf7; --ink: #20303a;
  --soft: #56636a; --rule: #d8cfbb; --rust: #a33e22; --on: #fffdf7 }
@media (prefers-color-scheme: dark) { :root { --paper: #1b2125; --sheet: #232b30;
  --ink: #ece5d6; --soft: #aab2b2; --rule: #3f4a50; --rust: #e58a66; --on: #1b2125 } }
body { margin: 0; background: var(--paper); color: var(--ink);
  font: 17px/1.5 "Public Sans Variable", "Public Sans", system-ui, sans-serif }
main { max-width: 34rem; margin: 12vh auto 0; padding: 0 1.25rem }
.word { font-size: 1.5rem; font-weight: 700; letter-spacing: -.01em }
.word b { color: var(--rust); font-weight: 400; padding: 0 .1em }
h1 { font-size: 1.7rem; line-height: 1.15; margin: 1.5rem 0 .5rem }
p { margin: .6rem 0 } code { background: var(--sheet); border: 1px solid var(--rule);
  border-radius: 3px; padding: .1em .35em; font-size: .95em; white-space: nowrap }
form { margin: 1.5rem 0; padding-top: 1.25rem; border-top: 2px solid var(--ink) }
label { display: block; font-weight: 650; margin-bottom: .3rem }
.line { display: flex; gap: .6rem; flex-wrap: wrap }
input { flex: 1 1 14rem; font: inherit; color: inherit; background: var(--sheet);
  border: 1px solid var(--soft); border-radius: 3px; padding: .5rem .7rem }
button { font: inherit; font-weight: 650; color: var(--on); background: var(--rust); border: 0;
  border-radius: 3px; padding: .55rem 1.2rem }
:focus-visible { outline: 3px solid var(--rust); outline-offset: 2px }
.fault { border-left: 4px solid var(--rust); padding-left: .8rem; font-weight: 650 }
.soft { color: var(--soft); font-size: .93rem }
"""


def entry_page(nonce: str, status: int, fault: str | None = None, code: str = "") -> HTMLResponse:
    """The page; `fault` says what was wrong with the last try, `code` stands in its field."""
    said = f'<p class="fault" role="alert">{escape(fault)}</p>' if fault else ""
    body = f"""<!doctype html>
<html lang="en"><head><meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>Sign in · Hare Mile</title><style nonce="{nonce}">{STYLE}</style></head>
<body><main>
<div class="word">Hare<b>|</b>Mile</div>
<h1>This browser is not signed in</h1>
{said}
<p>On the computer that runs the server, in its folder, <code>./haremile key link</code> prints an
address that signs one browser in. The start command prints the first one.</p>
<form method="post" action="/enter">
<label for="key">Or type a key, or the code of a device to pair</label>
<div class="line"><input id="key" name="key" type="password" autocomplete="current-password"
 required maxlength="200" value="{escape(code)}" autofocus><button>Sign in</button></div>
<p class="soft">A key is made by the owner with <code>./haremile key add NAME</code>, a code on the
page <em>People</em>.</p>
</form>
</main></body></html>"""
    return HTMLResponse(body, status, headers={"Cache-Control": "no-store"})
