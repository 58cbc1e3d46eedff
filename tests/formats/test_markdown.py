"""Words of a person's own do no harm on a page."""

import pytest

from haremile.formats.markdown import rendered, rendered_words


@pytest.mark.parametrize(
    "text",
    [
        "<script>alert(1)</script>",
        "<img src=x onerror=alert(1)>",
        "[x](javascript:alert(1))",
        "[x](data:text/html,hello)",
        "![x](http://elsewhere.example/x.png)",
    ],
)
def test_nothing_in_words_runs_or_is_fetched(text):
    html = rendered_words(text)
    assert "<script" not in html and "<img" not in html
    assert 'href="javascript' not in html and 'href="data' not in html


def test_words_are_rendered():
    assert rendered_words("**soon**, [here](https://a.example)") == (
        '<p><strong>soon</strong>, <a href="https://a.example">here</a></p>\n'
    )
    assert '<h2 id="the-verdict">' in rendered("## The verdict")
