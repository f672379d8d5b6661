package dev.brume.internal.engine;

import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.internal.work.ActiveAttempt;
import dev.brume.internal.work.AttemptRunner;
import dev.brume.spi.Completion;
import dev.brume.spi.TimeSource;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * An attempt that is carried out in turns: its own thread goes on while the stepping one waits, and gives the turn back when its work lets time pass, or has ended.
 *
 * <p>Confined to the thread whose turn it is.
 */
final class Performance {
    private final ActiveAttempt attempt;
    private final TimeSource time;
    private final Thread thread;
    private final Semaphore go = new Semaphore(0);
    private final Semaphore back = new Semaphore(0);
    private long wakesAt;
    private long cutAt;
    private Optional<StopReason> cutFor = Optional.empty();
    private boolean begun;
    private boolean givenUp;
    private @Nullable Completion completion;
    private @Nullable Throwable broken;

    Performance(ActiveAttempt attempt, AttemptRunner runner, TimeSource time) {
        this.attempt = attempt;
        this.time = time;
        wakesAt = time.nanos();
        attempt.run().job().longestAttempt().ifPresent(most -> cutAt(wakesAt + most.toNanos(), StopReason.TIME_LIMIT));
        thread = new Thread(() -> carryOut(runner), "brume-run-" + attempt.run().id());
        thread.setDaemon(true);
    }

    private void carryOut(AttemptRunner runner) {
        go.acquireUninterruptibly();
        SteppedWorkers.isNow(this);
        attempt.begin(Thread.currentThread());
        try {
            completion = runner.carryOut(attempt);
        } catch (Throwable e) {
            broken = e;
        } finally {
            attempt.close();
            back.release();
        }
    }

    ActiveAttempt attempt() {
        return attempt;
    }

    Optional<Completion> completion() {
        return Optional.ofNullable(completion);
    }

    /** {@return when it goes on} */
    long wakesAt() {
        return cutFor.isPresent() && cutAt - wakesAt < 0 ? cutAt : wakesAt;
    }

    /** Has it interrupted at a time, unless that is to happen earlier for another reason. */
    void cutAt(long nanos, StopReason why) {
        if (cutFor.isEmpty() || nanos - cutAt < 0) {
            cutAt = nanos;
            cutFor = Optional.of(why);
        }
    }

    /**
     * Lets it go on until it gives the turn back.
     *
     * @throws IllegalStateException if it does not, since it really sleeps or waits for something
     */
    void turn(Duration patience) {
        if (cutFor.isPresent() && cutAt - time.nanos() <= 0) {
            attempt.cut(cutFor.get());
            cutFor = Optional.empty();
            wakesAt = time.nanos();
        }
        if (!begun) {
            begun = true;
            thread.start();
        }
        go.release();
        await(patience);
        if (broken != null) {
            throw new IllegalStateException("run " + attempt.run().id() + " could not be carried out", broken);
        }
    }

    private void await(Duration patience) {
        // A program or a request takes the time that it takes.
        boolean isOurs = attempt.run().job().work() instanceof Work.Registered;
        try {
            if (!isOurs) {
                back.acquire();
            } else if (!back.tryAcquire(patience.toMillis(), TimeUnit.MILLISECONDS)) {
                String where = Stream.of(thread.getStackTrace())
                        .map(Object::toString)
                        .collect(Collectors.joining("\n    at "));
                throw new IllegalStateException(
                        "the handler of run " + attempt.run().id() + " of "
                                + attempt.run().job().name() + " has gone on for " + patience.toMillis() / 1000.0
                                + " s of real time: it sleeps, or waits for something that does not come while it has the turn (let time pass by elapse)."
                                + " It is here:\n    at " + where);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(
                    "interrupted while run " + attempt.run().id() + " went on", e);
        }
    }

    /** Called by the work: gives the turn back until time has passed, or until it is interrupted meanwhile. */
    void last(Duration by) {
        boolean toldBefore = Thread.currentThread().isInterrupted();
        wakesAt = time.nanos() + by.toNanos();
        do {
            back.release();
            go.acquireUninterruptibly();
            if (givenUp) {
                throw new IllegalStateException("this Brume was closed while the run went on");
            }
        } while (wakesAt - time.nanos() > 0
                && (toldBefore || !Thread.currentThread().isInterrupted()));
    }

    /** Ends it, whatever it is doing. */
    void giveUp(Duration patience) {
        givenUp = true;
        if (begun && completion == null) {
            thread.interrupt();
            go.release();
            await(patience);
        }
    }
}
