"""python -m attentive_owl.cli"""

from attentive_owl.cli.main import main

main()
