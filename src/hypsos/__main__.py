from hypsos.cli import main

main()
