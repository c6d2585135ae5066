"""Tells PyInstaller what the library loads at first use; without commands and figures."""

from PyInstaller.utils.hooks import collect_data_files, collect_submodules

hiddenimports = collect_submodules(
    "understep", filter=lambda name: not name.startswith(("understep.cli", "understep.freeze"))
)
datas = collect_data_files("understep")
excludedimports = ["matplotlib", "distributed", "dask", "pandas", "scipy", "IPython"]
