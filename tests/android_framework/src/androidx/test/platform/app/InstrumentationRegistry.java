package androidx.test.platform.app;

import android.app.Instrumentation;
import android.os.Bundle;

public final class InstrumentationRegistry {
    private static Instrumentation instance;

    public static void registerInstance(Instrumentation instrumentation, Bundle arguments) {
        instance = instrumentation;
    }

    public static Instrumentation getInstrumentation() {
        return instance;
    }
}
