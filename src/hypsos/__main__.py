from hypsos.start import main

main()
