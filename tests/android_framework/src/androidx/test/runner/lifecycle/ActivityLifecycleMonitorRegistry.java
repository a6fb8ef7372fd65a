package androidx.test.runner.lifecycle;

public final class ActivityLifecycleMonitorRegistry {
    public static void registerInstance(ActivityLifecycleMonitor monitor) {}
}
