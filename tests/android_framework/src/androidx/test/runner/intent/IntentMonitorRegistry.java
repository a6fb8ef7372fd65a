package androidx.test.runner.intent;

public final class IntentMonitorRegistry {
    public static void registerInstance(IntentMonitor monitor) {}
}
