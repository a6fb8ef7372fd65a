package androidx.test.runner.lifecycle;

public final class ApplicationLifecycleMonitorRegistry {
    public static void registerInstance(ApplicationLifecycleMonitor monitor) {}
}
