package dev.brume.internal.work;

import java.io.IOException;
import java.io.InputStream;
import java.util.concurrent.locks.LockSupport;

/**
 * Reads what a program prints until it has ended.
 *
 * <p>It never waits inside a read: a child of the program may keep the other end of the pipe open for as long as it likes, and would keep the thread and the
 * descriptor as well. Confined to the thread that runs it.
 */
final class ProgramOutput implements Runnable {
    private static final long SHORTEST_REST_NANOS = 1_000_000;
    private static final long LONGEST_REST_NANOS = 50_000_000;

    private static final long LAST_OUTPUT_NANOS = 2_000_000_000L;

    private final Process process;
    private final OutputBuffer output;
    private final byte[] bytes = new byte[8192];
    private long endedAt;
    private long rest = SHORTEST_REST_NANOS;

    ProgramOutput(Process process, OutputBuffer output) {
        this.process = process;
        this.output = output;
    }

    @Override
    public void run() {
        try (InputStream stream = process.getInputStream()) {
            boolean over = false;
            while (!over && stillWorthIt()) {
                // Asked before the look, so that nothing printed before the end is missed.
                boolean ended = !process.isAlive();
                boolean some = takeAll(stream);
                over = ended && !some;
                if (!ended) {
                    rest = some ? SHORTEST_REST_NANOS : Math.min(LONGEST_REST_NANOS, rest * 2);
                    LockSupport.parkNanos(rest);
                }
            }
        } catch (IOException e) {
            output.println("[output could not be read further: " + e.getMessage() + "]");
        }
    }

    /** Someone left behind may print for ever. */
    private boolean stillWorthIt() {
        if (endedAt == 0 && !process.isAlive()) {
            endedAt = System.nanoTime();
        }
        return endedAt == 0 || System.nanoTime() - endedAt < LAST_OUTPUT_NANOS;
    }

    private boolean takeAll(InputStream stream) throws IOException {
        boolean some = false;
        for (int there = available(stream); there > 0 && stillWorthIt(); there = available(stream)) {
            int length = stream.read(bytes, 0, Math.min(there, bytes.length));
            if (length < 0) {
                return some;
            }
            output.write(bytes, 0, length);
            some = true;
        }
        return some;
    }

    /** When a program ends, the runtime takes what is left in the pipe and closes it: a look at that moment may fail, the next does not. */
    private int available(InputStream stream) throws IOException {
        try {
            return stream.available();
        } catch (IOException closed) {
            if (process.isAlive()) {
                throw closed;
            }
            return stream.available();
        }
    }
}
