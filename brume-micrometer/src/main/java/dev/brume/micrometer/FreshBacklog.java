package dev.brume.micrometer;

import dev.brume.history.Backlog;
import dev.brume.history.History;
import dev.brume.history.NoticeFigures;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Future;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The backlog as it was some seconds ago at most. It is read when somebody asks, at most every few seconds, and whoever asks waits half a second for it
 * and no longer, since a database that hangs must not hang the metrics. Safe for use by many threads.
 */
final class FreshBacklog implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(FreshBacklog.class);
    private static final Duration FRESH = Duration.ofSeconds(5);
    private static final Duration BELIEVED = Duration.ofMinutes(1);
    private static final long PATIENCE_MILLIS = 500;
    private static final int MOST_LANES = 100;

    private final History history;
    private final ExecutorService reader;
    private final Set<String> lanes = ConcurrentHashMap.newKeySet();
    private final List<Consumer<String>> whenNew = new CopyOnWriteArrayList<>();
    private final List<Runnable> whenRead = new CopyOnWriteArrayList<>();
    private @Nullable Future<?> reading;
    private volatile @Nullable Reading last;

    private record Reading(Backlog backlog, NoticeFigures notices, long nanos) {
        Duration age() {
            return Duration.ofNanos(System.nanoTime() - nanos);
        }
    }

    FreshBacklog(History history) {
        this.history = history;
        ThreadPoolExecutor one =
                new ThreadPoolExecutor(1, 1, 10, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), work -> {
                    Thread thread = new Thread(work, "brume-metrics");
                    thread.setDaemon(true);
                    return thread;
                });
        one.allowCoreThreadTimeOut(true);
        reader = one;
    }

    /** {@return the backlog; empty if it could not be read for a minute} */
    Optional<Backlog> get() {
        Reading known = last;
        if (known == null || known.age().compareTo(FRESH) > 0) {
            await(read());
        }
        return Optional.ofNullable(last)
                .filter(reading -> reading.age().compareTo(BELIEVED) <= 0)
                .map(Reading::backlog);
    }

    /** {@return how telling fares, read together with the backlog; empty if it could not be read for a minute} */
    Optional<NoticeFigures> notices() {
        return get().flatMap(read -> Optional.ofNullable(last)).map(Reading::notices);
    }

    private synchronized @Nullable Future<?> read() {
        Future<?> going = reading;
        if (going == null || going.isDone()) {
            try {
                going = reader.submit(this::readNow);
            } catch (RejectedExecutionException closed) {
                return null;
            }
            reading = going;
        }
        return going;
    }

    private void readNow() {
        Backlog backlog = history.backlog();
        last = new Reading(backlog, history.noticeFigures(), System.nanoTime());
        backlog.lanes().stream()
                .map(Backlog.Lane::name)
                .filter(lane -> lanes.size() < MOST_LANES && lanes.add(lane))
                .forEach(lane -> whenNew.forEach(each -> each.accept(lane)));
        whenRead.forEach(Runnable::run);
    }

    /** Has something done whenever somebody asks for what has to be read anew. */
    void whenRead(Runnable action) {
        whenRead.add(action);
    }

    /** Tells of each lane that comes up, now and later; of no more than can be looked at. */
    void whenLaneIsNew(Consumer<String> listener) {
        whenNew.add(listener);
        lanes.forEach(listener);
    }

    private static void await(@Nullable Future<?> going) {
        if (going == null) {
            return;
        }
        try {
            going.get(PATIENCE_MILLIS, TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (ExecutionException e) {
            LOG.debug("the backlog could not be read", e);
        } catch (TimeoutException e) {
            LOG.debug("the backlog is still being read");
        }
    }

    @Override
    public void close() {
        reader.shutdownNow();
    }
}
