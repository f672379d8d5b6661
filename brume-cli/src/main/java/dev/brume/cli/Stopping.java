package dev.brume.cli;

import java.util.concurrent.CountDownLatch;

/** Waits for a signal to stop, and lets the process live until what it has begun is over. To be closed last. */
final class Stopping implements AutoCloseable {
    private final CountDownLatch asked = new CountDownLatch(1);
    private final CountDownLatch over = new CountDownLatch(1);
    private volatile boolean inOrder;

    private final Thread hook = new Thread(this::stop);
    private boolean listens;

    private Stopping() {}

    /** {@return one that hears of a signal from now on: whatever is under way is ended in order} */
    static Stopping fromNow() {
        Stopping stopping = new Stopping();
        stopping.listen();
        return stopping;
    }

    /** {@return one that hears of a signal once it is waited for: until then it ends the process at once} */
    static Stopping onceAwaited() {
        return new Stopping();
    }

    private synchronized void listen() {
        if (!listens) {
            listens = true;
            Runtime.getRuntime().addShutdownHook(hook);
        }
    }

    private void stop() {
        asked.countDown();
        try {
            over.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        if (inOrder) {
            // A process that a signal ends has its own exit code otherwise, which reads as a failure.
            System.out.flush();
            System.err.flush();
            Runtime.getRuntime().halt(ExitCode.OK);
        }
    }

    /** Asks to stop, as a signal does. */
    void ask() {
        asked.countDown();
    }

    /** Waits until somebody asks. */
    void await() throws InterruptedException {
        listen();
        asked.await();
    }

    /** Notes that all was ended in order. */
    void isInOrder() {
        inOrder = true;
    }

    @Override
    public void close() {
        over.countDown();
    }
}
