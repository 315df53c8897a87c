from gwiazda.cli import main

raise SystemExit(main())
