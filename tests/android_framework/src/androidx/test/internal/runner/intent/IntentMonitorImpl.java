package androidx.test.internal.runner.intent;

import android.content.Intent;
import androidx.test.runner.intent.IntentMonitor;

public final class IntentMonitorImpl implements IntentMonitor {
    public void signalIntent(Intent intent) {}
}
