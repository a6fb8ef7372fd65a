package androidx.test.runner.intent;

public interface IntentMonitor {}
