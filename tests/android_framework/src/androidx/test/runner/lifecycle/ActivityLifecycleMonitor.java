package androidx.test.runner.lifecycle;

public interface ActivityLifecycleMonitor {}
