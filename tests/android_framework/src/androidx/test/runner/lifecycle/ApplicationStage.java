package androidx.test.runner.lifecycle;

public enum ApplicationStage { PRE_ON_CREATE, CREATED }
