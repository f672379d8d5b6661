package dev.brume.http.internal.live;

import dev.brume.Brume;
import dev.brume.BrumeException;
import dev.brume.JobName;
import dev.brume.definitions.JsonText;
import dev.brume.definitions.Views;
import dev.brume.history.FeedEvent;
import dev.brume.history.FeedPage;
import dev.brume.history.FeedPosition;
import dev.brume.http.HttpLimits;
import dev.brume.http.internal.web.Answer;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Param;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import jakarta.servlet.AsyncContext;
import jakarta.servlet.ServletOutputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.ArrayDeque;
import java.util.Collection;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import java.util.function.LongSupplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Tells events to all who follow. One thread reads the feed, as long as anybody does; what came last is kept for those who come back; who was away
 * for longer is brought up to date apart. Safe for use by many threads.
 */
public final class Hub implements AutoCloseable {
    /** The operation that is answered here. */
    public static final String OPERATION = "followEvents";

    private static final Logger LOG = LoggerFactory.getLogger(Hub.class);
    private static final Comparator<FeedPosition> ORDER = Comparator.comparingLong(FeedPosition::epoch)
            .thenComparingLong(FeedPosition::number)
            .thenComparingInt(FeedPosition::index);
    private static final int KEPT = 5_000;
    private static final int PAGE = 500;
    private static final long PAUSE_MILLIS = 50;
    private static final long AWAY_MILLIS = 1_000;
    private static final long JUST_NOW_NANOS = 200_000_000L;
    private static final long CARE_NANOS = 500_000_000L;
    private static final long SIGN_OF_LIFE_NANOS = 10_000_000_000L;
    private static final long PATIENCE_NANOS = 30_000_000_000L;

    private static final String STOPPING =
            "event: cut\ndata: {\"reason\":\"this instance is stopping; come back\"}\n\n";

    private static final Param<String> NAMESPACE =
            Param.text("namespace", "Only events about jobs of this namespace.", 100, "harbour");
    private static final Param<JobName> JOB = new Param<>(
            "job", "Only events about this job.", Map.of("type", "string"), "harbour/tide-tables", JobName::parse);
    private static final Param<String> TAG =
            Param.text("tag", "Only events about jobs that carry this tag.", 100, "nightly");
    private static final Param<FeedEvent.Kind> KIND =
            Param.word("kind", "Only events of this kind.", FeedEvent.Kind.values());

    private static final Param<FeedPosition> AFTER = new Param<>(
            "after",
            "Behind which event to begin, for who has not followed so far and cannot send Last-Event-ID.",
            Map.of("type", "string"),
            "1.0.0",
            FeedPosition::parse);

    private final Brume brume;
    private final HttpLimits limits;
    private final LongSupplier nanos;
    private final JobFacts facts;
    private final Set<Client> clients = ConcurrentHashMap.newKeySet();
    /** Those of them who hear of what comes, rather than being brought up to date. */
    private final Set<Client> joined = ConcurrentHashMap.newKeySet();

    private final Deque<Told> kept = new ArrayDeque<>();
    private final ExecutorService latecomers =
            Executors.newFixedThreadPool(2, task -> daemon(task, "brume-http-latecomers"));
    private final Object begins = new Object();
    private @Nullable Begin begin;
    private @Nullable FeedPosition position;
    private @Nullable Thread reader;
    private volatile boolean closed;

    /** Where the feed was, and when. */
    private record Begin(FeedPosition position, long at) {}

    /** An event, the job that it is about, and its text. */
    private record Told(FeedEvent event, Optional<JobName> about, String text) {}

    /** Creates the hub, with a clock that only goes on. */
    public Hub(Brume brume, HttpLimits limits, LongSupplier nanos) {
        this.brume = brume;
        this.limits = limits;
        this.nanos = nanos;
        this.facts = new JobFacts(brume, nanos);
    }

    private static Thread daemon(Runnable task, String name) {
        Thread thread = new Thread(task, name);
        thread.setDaemon(true);
        return thread;
    }

    /** {@return the operation that is answered here} */
    public static Operation operation() {
        return Operation.get("/events", OPERATION, "Follows what happens, as server-sent events.")
                .says(
                        "Starts, progress, ends, occurrences that were passed over, takeovers, instances that join, changes. Whoever comes"
                                + " back with Last-Event-ID is told what came meanwhile, by whichever instance, without a gap or a"
                                + " repetition; once reset, if that is further back than the feed reaches. Whoever is too far behind is"
                                + " cut, and told that.")
                .takes(NAMESPACE, JOB, TAG, KIND, AFTER)
                .answers(Answer.text("The events.", "text/event-stream"));
    }

    /** Takes a request over. */
    public void open(HttpServletRequest request, HttpServletResponse response, Call call, BooleanSupplier isStillGood) {
        clients.removeIf(Client::hasEnded);
        if (closed || clients.size() >= limits.streams()) {
            throw new Problem(
                            Kind.NOT_NOW,
                            closed
                                    ? "this instance is stopping"
                                    : limits.streams() + " streams are open, and no more are at once")
                    .with("Retry-After", "10");
        }
        Optional<FeedPosition> last =
                call.incoming().header("Last-Event-ID").map(Hub::place).or(() -> call.get(AFTER));
        Wanted wanted = new Wanted(call.caller(), call.get(NAMESPACE), call.get(JOB), call.get(TAG), call.get(KIND));
        FeedPosition begin = last.orElseGet(this::now);
        response.setStatus(200);
        response.setContentType("text/event-stream;charset=utf-8");
        response.setHeader("Cache-Control", "no-store");
        response.setHeader("X-Accel-Buffering", "no");
        try {
            AsyncContext async = request.startAsync();
            async.setTimeout(0);
            ServletOutputStream out = response.getOutputStream();
            begin(new Client(async, out, limits.buffer(), wanted, isStillGood, begin), out, last.isPresent());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** From here on there is no answer but the stream: whoever cannot be told anything is let go. */
    private void begin(Client client, ServletOutputStream out, boolean cameBack) {
        clients.add(client);
        try {
            out.setWriteListener(client);
            client.tell(Piece.of("retry: 2000\nid: " + client.told() + "\nevent: ready\ndata: {}\n\n", 1));
            if (cameBack || !join(client)) {
                latecomers.execute(() -> bringUpToDate(client));
            }
        } catch (RejectedExecutionException stopping) {
            LOG.debug("somebody came while the streams were ended", stopping);
            client.end(STOPPING);
        } catch (RuntimeException gone) {
            LOG.debug("whoever wanted to follow has left", gone);
            clients.remove(client);
            joined.remove(client);
            client.cut();
        }
    }

    private static FeedPosition place(String text) {
        try {
            return FeedPosition.parse(text);
        } catch (IllegalArgumentException e) {
            throw new Problem(Kind.INVALID, "Last-Event-ID: " + e.getMessage());
        }
    }

    /** Where somebody begins who says nothing: with what is to come. Of many who come at once, one asks the store. */
    private FeedPosition now() {
        synchronized (begins) {
            synchronized (kept) {
                if (position != null && reader != null) {
                    return position;
                }
            }
            Begin last = begin;
            if (last == null || nanos.getAsLong() - last.at > JUST_NOW_NANOS) {
                last = new Begin(brume.followFromNow(), nanos.getAsLong());
                begin = last;
            }
            return last.position;
        }
    }

    /** {@return behind which event those are who hear of what comes; empty if there are none} */
    private Optional<FeedPosition> position() {
        synchronized (kept) {
            return reader == null ? Optional.empty() : Optional.ofNullable(position);
        }
    }

    /** Lets somebody hear of what comes from now on; tells what is kept and they do not know. {@return whether nothing is missing in between} */
    private boolean join(Client client) {
        synchronized (kept) {
            if (reader == null) {
                position = client.told();
                kept.clear();
                reader = daemon(this::read, "brume-http-events");
                reader.start();
                joined.add(client);
                return true;
            }
            FeedPosition from = client.told();
            FeedPosition oldest =
                    kept.isEmpty() ? position : kept.peekFirst().event.position();
            if (oldest != null && ORDER.compare(from, oldest) < 0 && !from.equals(position)) {
                return false;
            }
            tell(client, kept);
            joined.add(client);
            return true;
        }
    }

    /** Reads for somebody alone what came while they were away. */
    private void bringUpToDate(Client client) {
        try {
            while (!client.hasEnded() && !closed) {
                Optional<FeedPosition> others = position();
                FeedPage page = brume.follow(client.told(), PAGE);
                if (page.reset()) {
                    client.tell(Piece.of("id: " + page.next() + "\nevent: reset\ndata: {}\n\n", 1));
                }
                tell(client, page.events().stream().map(this::told).toList());
                client.passed(page.next());
                if (!awaitRoom(client)) {
                    return;
                }
                if (page.events().isEmpty()) {
                    // Nothing lies between, so that they are where the others were before.
                    others.filter(place -> ORDER.compare(client.told(), place) < 0)
                            .ifPresent(client::passed);
                    if (join(client)) {
                        return;
                    }
                    TimeUnit.MILLISECONDS.sleep(10);
                }
            }
        } catch (BrumeException away) {
            LOG.debug("the store cannot say what came meanwhile", away);
            client.end("event: cut\ndata: {\"reason\":\"the store cannot answer now; come back\"}\n\n");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Whoever is told much at once takes it at their own pace, if it is one. */
    private boolean awaitRoom(Client client) throws InterruptedException {
        long since = nanos.getAsLong();
        while (client.behind() > limits.buffer() / 2 && !client.hasEnded()) {
            if (nanos.getAsLong() - since > PATIENCE_NANOS) {
                client.cut();
                return false;
            }
            TimeUnit.MILLISECONDS.sleep(10);
        }
        return true;
    }

    private Told told(FeedEvent event) {
        return new Told(
                event,
                facts.job(event),
                "id: " + event.position() + "\nevent: " + event.kind() + "\ndata: "
                        + JsonText.line(Views.feedEvent(event)) + "\n\n");
    }

    private void tell(Client client, Collection<Told> several) {
        FeedPosition known = client.told();
        List<Told> unknown = several.stream()
                .filter(told -> ORDER.compare(told.event.position(), known) > 0)
                .toList();
        if (!unknown.isEmpty()) {
            tell(client, piece(client.wanted(), unknown), end(unknown));
        }
    }

    /** Those who are where the reader was, which are nearly all, and want the same are told the same; those ahead of it what they do not know. */
    private void tellThoseAt(FeedPosition place, List<Told> fresh) {
        if (fresh.isEmpty()) {
            return;
        }
        Map<JobName, List<Told>> byJob = fresh.stream()
                .filter(told -> told.about.isPresent())
                .collect(Collectors.groupingBy(told -> told.about.get()));
        Map<Wanted, Piece> pieces = new HashMap<>();
        for (Client client : joined) {
            if (client.told().equals(place)) {
                Piece piece = pieces.computeIfAbsent(
                        client.wanted(),
                        wanted -> piece(
                                wanted,
                                wanted.job()
                                        .map(job -> byJob.getOrDefault(job, List.of()))
                                        .orElse(fresh)));
                tell(client, piece, end(fresh));
            } else {
                tell(client, fresh);
            }
        }
    }

    private static void tell(Client client, Piece piece, FeedPosition end) {
        if (piece.events() > 0) {
            client.tell(piece);
        }
        client.passed(end);
    }

    private static FeedPosition end(List<Told> several) {
        return several.get(several.size() - 1).event.position();
    }

    /** What of several events is wanted. */
    private Piece piece(Wanted wanted, List<Told> several) {
        StringBuilder text = new StringBuilder();
        int count = 0;
        for (Told told : several) {
            if (wanted.wants(told.event, told.about, facts)) {
                text.append(told.text);
                count++;
            }
        }
        return Piece.of(text.toString(), count);
    }

    private void read() {
        long cared = nanos.getAsLong();
        long signed = cared;
        boolean away = false;
        while (true) {
            synchronized (kept) {
                clients.removeIf(Client::hasEnded);
                joined.removeIf(Client::hasEnded);
                if (clients.isEmpty() || closed) {
                    reader = null;
                    return;
                }
            }
            boolean some = false;
            try {
                some = readOn();
                away = false;
            } catch (RuntimeException gone) {
                if (!away) {
                    LOG.warn("the feed of events cannot be read, will be tried again", gone);
                }
                away = true;
            }
            long now = nanos.getAsLong();
            if (now - cared >= CARE_NANOS && !away) {
                cared = now;
                endWhoIsOut();
            }
            if (now - signed >= SIGN_OF_LIFE_NANOS) {
                signed = now;
                String sign = away ? ": the store is away\n\n" : ": still here\n\n";
                joined.forEach(client -> client.tell(Piece.of(sign, 1)));
            }
            if (!some) {
                sleep(away ? AWAY_MILLIS : PAUSE_MILLIS);
            }
        }
    }

    private static void sleep(long millis) {
        try {
            TimeUnit.MILLISECONDS.sleep(millis);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private boolean readOn() {
        FeedPosition from;
        synchronized (kept) {
            from = Objects.requireNonNull(position, "read before anybody came");
        }
        FeedPage page = brume.follow(from, PAGE);
        List<Told> fresh = page.events().stream().map(this::told).toList();
        // Whose tags are asked for is looked up before others wait for it.
        if (joined.stream().anyMatch(client -> client.wanted().tag().isPresent())) {
            fresh.forEach(told -> told.about.ifPresent(facts::tags));
        }
        synchronized (kept) {
            if (page.reset()) {
                kept.clear();
                joined.forEach(
                        client -> client.tell(Piece.of("id: " + page.next() + "\nevent: reset\ndata: {}\n\n", 1)));
            }
            tellThoseAt(from, fresh);
            kept.addAll(fresh);
            while (kept.size() > KEPT) {
                kept.poll();
            }
            position = page.next();
        }
        return !fresh.isEmpty();
    }

    private void endWhoIsOut() {
        for (Client client : clients) {
            try {
                if (!client.isStillGood()) {
                    client.end("event: out\ndata: {\"reason\":\"the token was revoked or has ended\"}\n\n");
                }
            } catch (BrumeException away) {
                LOG.debug("the store cannot say who is still let in", away);
            }
        }
    }

    /** Ends all streams; whoever follows goes on at another instance. */
    @Override
    public void close() {
        closed = true;
        clients.forEach(client -> client.end(STOPPING));
        latecomers.shutdownNow();
    }
}
