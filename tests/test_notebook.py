"""A notebook shows boards and answers as small pictures, and as text where it cannot."""

import nbformat
from nbclient import NotebookClient

import understep as us

CELLS = (
    "import understep as us\nboard = us.maps.shipped('fen')\nboard",
    "us.reach(board, 'scout')",
    "us.route(board, 'scout', goals=(18, 10))",
    "us.explain(board, 'ox-cart', (4, 1))",
    "us.fog(board, 'wardens')",
)


def test_a_notebook_shows_boards_and_answers():
    book = nbformat.v4.new_notebook(cells=[nbformat.v4.new_code_cell(text) for text in CELLS])
    done = NotebookClient(book, timeout=120, kernel_name="python3").execute()
    results = "execute_result"  # the interpreted kernel warns before
    shown = [
        next(each for each in cell.outputs if each.output_type == results).data
        for cell in done.cells
    ]
    board = us.maps.shipped("fen")
    for data in shown:
        assert data["text/html"].startswith("<svg")
        assert data["text/html"].count("<polygon") >= len(board.grid.cells)
    reach = us.reach(board, "scout")
    assert shown[0]["text/plain"] == repr(board)
    assert shown[1]["text/plain"] == repr(reach)
    assert shown[1]["text/html"].count(" reach 1") == len(reach) - 1  # the start
    assert "<title>(5, 6) causeway</title>" in shown[0]["text/html"]
    assert "scout of the wardens" in shown[0]["text/html"]
    assert "<polyline" in shown[2]["text/html"]


def test_a_board_too_large_to_draw_is_text():
    assert us.Board(us.SquareGrid(300, 300), {"turf": 1})._repr_html_().startswith("<pre>Board(")
