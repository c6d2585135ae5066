"""Check that no files of the package import each other in a circle, for types included."""

import sys

import grimp
import networkx as nx


def main() -> int:
    """Print the circles, and say by the exit status whether there are any."""
    imports = grimp.build_graph("understep")
    graph = nx.DiGraph(
        (module, other)
        for module in imports.modules
        for other in imports.find_modules_directly_imported_by(module)
    )
    circles = [sorted(each) for each in nx.strongly_connected_components(graph) if len(each) > 1]
    for each in circles:
        print("a circle of imports:", ", ".join(each))
    return int(bool(circles))


if __name__ == "__main__":
    sys.exit(main())
