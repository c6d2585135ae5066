"""What a board keeps is bounded, however much is asked and done."""

import tracemalloc

import understep as us
from understep.boards import journal


def held(act):
    """Bytes of memory that stay after something was done."""
    tracemalloc.start()
    try:
        act()
        return tracemalloc.get_traced_memory()[0]
    finally:
        tracemalloc.stop()


def test_movements_without_number_take_no_more_than_the_last_ones():
    def ask(board, many):
        for number in range(many):
            mover = us.Movement(4, costs={"mud": 1 + number})
            board.add(us.Unit("scout", "wardens", mover), at=(20, 20))
            us.reach(board, "scout")
            us.areas(board, "scout")
            board.remove("scout")

    boards = [us.Board(us.SquareGrid(40, 40), {"turf": 1, "mud": 2}) for _ in range(2)]
    few, many = held(lambda: ask(boards[0], 80)), held(lambda: ask(boards[1], 320))
    assert many < 1.5 * few
    copy = boards[1].copy()
    copy.add(us.Unit("scout", "wardens", us.Movement(4)), at=(20, 20))
    assert len(us.reach(copy, "scout")) == 41


def test_reaches_of_units_that_are_gone_do_not_stay():
    def ask(board, many):
        for number in range(many):
            board.add(us.Unit(f"scout{number}", "wardens", us.Movement(99)), at=(30, 30))
            us.reach(board, f"scout{number}")
            board.remove(f"scout{number}")

    boards = [us.Board(us.SquareGrid(128, 128), {"turf": 1}) for _ in range(2)]
    few, many = held(lambda: ask(boards[0], 100)), held(lambda: ask(boards[1], 400))
    assert many < 1.5 * few


def test_a_journal_of_large_steps_keeps_the_last_of_them(monkeypatch):
    monkeypatch.setattr(journal, "MOST_BYTES", 1 << 20)
    board = us.Board(us.SquareGrid(100, 100), {"turf": 1, "mud": 2})
    steps = 60
    for number in range(steps):
        board.paint(("mud", "turf")[number % 2], board.grid.cells)  # some 90 kB each
    undone = 0
    while board.undo():
        undone += 1
        assert board.terrain((5, 5)) == ("turf", "mud")[(steps - undone) % 2]
    assert 5 < undone < 20
    while board.redo():
        undone -= 1
    assert (undone, board.terrain((5, 5))) == (0, "turf")
    monkeypatch.setattr(journal, "MOST_BYTES", 1000)
    board.paint("mud", board.grid.cells)  # larger than all that is kept, but the last step
    assert (board.undo(), board.undo(), board.terrain((5, 5))) == (True, False, "turf")
