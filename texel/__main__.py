from texel.cli import main

raise SystemExit(main())
