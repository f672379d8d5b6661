package dev.brume.spring;

import org.springframework.boot.diagnostics.AbstractFailureAnalyzer;
import org.springframework.boot.diagnostics.FailureAnalysis;

/** Tells in words why an application did not start. */
final class SetupFailureAnalyzer extends AbstractFailureAnalyzer<SetupException> {
    SetupFailureAnalyzer() {}

    @Override
    protected FailureAnalysis analyze(Throwable rootFailure, SetupException cause) {
        String action = cause.action();
        return new FailureAnalysis(
                cause.problem(), Character.toUpperCase(action.charAt(0)) + action.substring(1) + ".", cause);
    }
}
