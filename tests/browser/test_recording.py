"""A file dropped on a page that is of no file: a recording, whose drill is asked about; or refused in one sentence."""

from __future__ import annotations

from studio.recordings.models import Upload
from tests.browser.served import SERVED, ServedTestCase
from tests.browser.test_take import pass_time, text_of
from tests.giusto.hearing.encoding import KEPT

setUpModule = SERVED.open

DROP = """([name, bytes]) => {
  const dataTransfer = new DataTransfer();
  dataTransfer.items.add(new File([new Uint8Array(bytes)], name));
  document.body.dispatchEvent(new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer }));
}"""


class DropTests(ServedTestCase):
    def drop(self, where: str, name: str, content: bytes) -> None:
        """Drop a file on a page, and wait for where it leads."""
        self.page.goto(self.url(where))
        with self.page.expect_navigation():
            self.page.evaluate(DROP, [name, list(content)])

    def test_on_any_page(self) -> None:
        def go() -> tuple[str, str]:
            self.drop("/log/", "words.m4a", b"hello")
            refused = text_of(self.page, ".error")
            self.drop("/today/", "memo.m4a", (KEPT / "strokes.m4a").read_bytes())
            return refused, text_of(self.page, "h1")

        refused, waits = self.browse(go)
        self.assertIn("This is text, and no list of onsets", refused)
        self.assertEqual(waits, "It waits to be heard.")
        upload = Upload.objects.get()
        self.assertEqual((upload.name, upload.drill), ("memo.m4a", {}))
        self.assertEqual(self.faults, [])

    def test_never_where_a_take_may_be_played(self) -> None:
        def go() -> str:
            self.page.goto(self.url("/play/?drill=two-heard-two-silent"))
            self.page.evaluate(DROP, ["memo.m4a", [0, 1, 2]])
            pass_time(self.page, 0.3, "it would have led away by now")
            return str(self.page.url)

        self.assertIn("/play/", self.browse(go))
        self.assertEqual(Upload.objects.count(), 0)
