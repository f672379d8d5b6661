package dev.brume.internal.work;

/**
 * What an application has put around attempts.
 *
 * @param checks asked before they start
 * @param interceptors that go around them
 */
public record Around(StartChecks checks, Interceptors interceptors) {
    /** Nothing so far. */
    public Around() {
        this(new StartChecks(), new Interceptors());
    }
}
