"""`python -m rivelt`."""

from rivelt.cli.main import main

if __name__ == "__main__":
    main()
