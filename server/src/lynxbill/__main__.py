from lynxbill.cli import main

main()
