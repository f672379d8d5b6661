package dev.brume.internal.event;

import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.EventFilter;
import dev.brume.JobName;
import dev.brume.JobScope;
import dev.brume.Listener;
import dev.brume.ListenerStatus;
import dev.brume.StoreAnswer;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Function;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Passes events on to listeners, each on a thread of its own behind a bounded queue. Safe for use by many threads. */
public final class Listeners implements EngineListener {
    private static final Logger LOG = LoggerFactory.getLogger(Listeners.class);
    private static final long BELIEVED_NANOS = TimeUnit.SECONDS.toNanos(1);
    private static final int MOST_KNOWN = 10_000;

    private final List<EngineListener> atOnce = new CopyOnWriteArrayList<>();
    private final Function<JobName, Set<String>> tags;
    private final List<Post> posts = new CopyOnWriteArrayList<>();
    private volatile Trouble trouble = (what, why) -> {};

    /** Hears what listeners do wrong. */
    public interface Trouble {
        /** Takes note; told again and again, so it is to be thrifty. */
        void report(String what, Throwable why);
    }

    /**
     * Creates the passing on.
     *
     * @param first is told of everything at once, on the engine's own threads
     * @param tags looks up a job's tags
     */
    public Listeners(EngineListener first, Function<JobName, Set<String>> tags) {
        atOnce.add(first);
        this.tags = tags;
    }

    /** Sets who hears of trouble. */
    public void reportTo(Trouble who) {
        trouble = who;
    }

    /** Adds one that is told at once, on the engine's own threads. */
    public void add(EngineListener listener) {
        atOnce.add(listener);
    }

    /** Adds a listener. */
    public void add(String name, EventFilter filter, Listener listener) {
        Post post = new Post(name, filter, listener);
        posts.add(post);
        post.thread.start();
    }

    /** {@return how they fare} */
    public List<ListenerStatus> status() {
        return posts.stream().map(Post::status).toList();
    }

    @Override
    public boolean wants(Event.Kind kind) {
        return atOnce.stream().anyMatch(each -> each.wants(kind))
                || posts.stream().anyMatch(post -> post.filter.wants(kind));
    }

    @Override
    public void saw(Event event) {
        posts.forEach(post -> post.offer(event));
        atOnce.forEach(each -> tell(each, event));
    }

    /** What one throws is no reason to leave out the next. */
    private static void tell(EngineListener listener, Event event) {
        try {
            if (listener.wants(event.kind())) {
                listener.saw(event);
            }
        } catch (Exception | LinkageError | AssertionError | StackOverflowError e) {
            LOG.warn("{}: an engine listener threw at {}; ignored", event.instance(), event.kind(), e);
        }
    }

    @Override
    public void answered(StoreAnswer answer) {
        for (EngineListener each : atOnce) {
            try {
                each.answered(answer);
            } catch (Exception | LinkageError | AssertionError | StackOverflowError e) {
                LOG.warn("an engine listener threw at an answer of the store; ignored", e);
            }
        }
    }

    /**
     * Lets listeners hear what waits for them, and ends their threads.
     *
     * @param limit how long that may take for all of them together
     */
    public void close(Duration limit) throws InterruptedException {
        posts.forEach(post -> post.closed = true);
        long until = System.nanoTime() + limit.toNanos();
        try {
            for (Post post : posts) {
                long left = TimeUnit.NANOSECONDS.toMillis(until - System.nanoTime());
                if (post.thread != Thread.currentThread() && left > 0) {
                    post.thread.join(left);
                }
            }
        } finally {
            posts.stream()
                    .filter(post -> post.thread != Thread.currentThread())
                    .forEach(post -> post.thread.interrupt());
        }
    }

    /** Tags as they were looked up. */
    private record Known(Set<String> tags, long nanos) {}

    /** One listener with its queue. */
    private final class Post implements Runnable {
        private final String name;
        private final EventFilter filter;
        private final Listener listener;
        private final BlockingQueue<Event> waiting = new ArrayBlockingQueue<>(Listener.MOST_WAITING);
        private final Map<JobName, Known> known = new HashMap<>();
        private final AtomicLong told = new AtomicLong();
        private final AtomicLong failed = new AtomicLong();
        private final AtomicLong passedOver = new AtomicLong();
        private final Thread thread;
        private volatile boolean closed;

        Post(String name, EventFilter filter, Listener listener) {
            this.name = name;
            this.filter = filter;
            this.listener = listener;
            thread = new Thread(this, "brume-listener-" + name);
            thread.setDaemon(true);
        }

        ListenerStatus status() {
            return new ListenerStatus(name, told.get(), failed.get(), passedOver.get(), waiting.size());
        }

        void offer(Event event) {
            if (closed || !filter.wants(event.kind()) || !mayConcern(event)) {
                return;
            }
            if (!waiting.offer(event) && passedOver.incrementAndGet() % Listener.MOST_WAITING == 1) {
                trouble.report(
                        "listener '" + name + "' is too slow",
                        new IllegalStateException(passedOver.get() + " events passed over so far"));
            }
        }

        private boolean mayConcern(Event event) {
            JobScope jobs = filter.jobs();
            return event.job()
                    .map(job -> jobs.usesTags() || jobs.holds(job, Set.of()))
                    .orElse(jobs.isAll());
        }

        @Override
        public void run() {
            try {
                while (!closed || !waiting.isEmpty()) {
                    Event event = waiting.poll(100, TimeUnit.MILLISECONDS);
                    if (event != null && isWanted(event)) {
                        tell(event);
                    }
                }
            } catch (InterruptedException e) {
                LOG.debug("listener {} ends with {} events unheard", name, waiting.size());
            }
        }

        /** Tags are looked up here, where nobody waits for it. */
        private boolean isWanted(Event event) {
            JobScope jobs = filter.jobs();
            if (!jobs.usesTags() || event.job().isEmpty()) {
                return true;
            }
            JobName job = event.job().get();
            return jobs.holds(job, Set.of()) || jobs.holds(job, tagsOf(job, event.kind() == Event.Kind.DEFINED));
        }

        /** Tags may be changed by any instance, so that they are believed for a second only; those of a dropped job are its last. */
        private Set<String> tagsOf(JobName job, boolean anew) {
            Known before = known.get(job);
            if (before != null && !anew && System.nanoTime() - before.nanos < BELIEVED_NANOS) {
                return before.tags;
            }
            try {
                Known now = new Known(tags.apply(job), System.nanoTime());
                if (known.size() >= MOST_KNOWN) {
                    known.clear();
                }
                known.put(job, now);
                return now.tags;
            } catch (RuntimeException e) {
                trouble.report("listener '" + name + "': the tags of " + job + " could not be looked up", e);
                return before == null ? Set.of() : before.tags;
            }
        }

        private void tell(Event event) throws InterruptedException {
            try {
                told.incrementAndGet();
                listener.heard(event);
            } catch (InterruptedException e) {
                throw e;
            } catch (Throwable e) {
                failed.incrementAndGet();
                LOG.warn("listener {} threw at {}", name, event, e);
                trouble.report("listener '" + name + "' threw", e);
            }
        }
    }
}
