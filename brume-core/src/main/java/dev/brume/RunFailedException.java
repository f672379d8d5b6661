package dev.brume;

/**
 * A run whose result is wanted did not succeed.
 *
 * @since 0.1.0
 */
public class RunFailedException extends BrumeException {
    private static final long serialVersionUID = 1L;

    private final transient RunResult result;

    RunFailedException(RunResult result) {
        super("run " + result.run() + " ended " + result.outcome()
                + result.reason().map(reason -> ", " + reason).orElse("")
                + result.error()
                        .map(error -> ": " + error.lines().findFirst().orElse(""))
                        .orElse(""));
        this.result = result;
    }

    /** {@return how it ended} */
    public RunResult result() {
        return result;
    }
}
