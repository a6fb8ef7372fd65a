"""The rule engine: what a rule is (`rulebook`), the one runner, reports, and the rules that no platform owns."""
