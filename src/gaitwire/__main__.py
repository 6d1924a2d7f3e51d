"""python -m gaitwire"""

from gaitwire.cli import main

main()
