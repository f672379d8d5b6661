package dev.brume.http.internal.console;

import dev.brume.Brume;
import dev.brume.http.Caller;
import dev.brume.http.HttpLimits;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.Incoming;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Reply;
import dev.brume.http.internal.web.Rights;
import dev.brume.http.internal.web.Routes;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.Executor;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.function.LongSupplier;

/** Shows an instance and its cluster to people. Safe for use by many threads. */
public final class Console {
    private static final int A_YEAR = 365 * 24 * 3600;
    private static final int WORKERS = 2;
    private static final int IDLE_SECONDS = 30;

    /** Until then whoever asked has been answered, and the processor is free. */
    private static final int LATER_MILLIS = 500;

    private final Brume brume;
    private final HttpLimits limits;
    private final Routes routes;
    private final Assets assets = new Assets();

    /**
     * Creates it.
     *
     * @param signsOut whether people sign in and out here, rather than in the application
     * @param nanos a clock that only goes on
     */
    public Console(Brume brume, HttpLimits limits, boolean signsOut, LongSupplier nanos) {
        this.brume = brume;
        this.limits = limits;
        Executor threads = threads();
        Executor behind = CompletableFuture.delayedExecutor(LATER_MILLIS, TimeUnit.MILLISECONDS, threads);
        Doctor doctor = new Doctor(nanos, threads);
        List<Operation> pages = new ArrayList<>();
        pages.add(new BoardPage(new Boards(nanos, behind), doctor, signsOut).operation());
        pages.addAll(new JobPages(signsOut).operations());
        pages.addAll(new DefinePage(signsOut).operations());
        pages.addAll(new CalendarsPage(signsOut).operations());
        pages.addAll(new NoticesPage(signsOut).operations());
        pages.addAll(new RunPages(signsOut).operations());
        pages.add(new ComingPage(signsOut, nanos, behind).operation());
        pages.addAll(new ClusterPages(doctor, signsOut, nanos, behind).operations());
        this.routes = new Routes(pages);
    }

    /** Where things are worked out while whoever asked has been told what was known before; its threads end by themselves. */
    private static Executor threads() {
        ThreadPoolExecutor threads = new ThreadPoolExecutor(
                WORKERS, WORKERS, IDLE_SECONDS, TimeUnit.SECONDS, new LinkedBlockingQueue<>(), task -> {
                    Thread thread = new Thread(task, "brume-http-console");
                    thread.setDaemon(true);
                    return thread;
                });
        threads.allowCoreThreadTimeOut(true);
        return threads;
    }

    /** {@return a file that pages use, if the path means one} */
    public Optional<Reply> file(String path) {
        return assets.file(path);
    }

    /** {@return whether a path and a method mean a page} */
    public boolean has(String method, String path) {
        return (method.equals("GET") || method.equals("HEAD"))
                && routes.methods(segments(path)).isPresent();
    }

    private static List<String> segments(String path) {
        return Incoming.segments(path.equals("/") ? "board" : path.substring(1));
    }

    /** {@return the page} */
    public Reply page(Caller caller, Incoming incoming) {
        List<String> segments = segments(incoming.path());
        if (routes.methods(segments).isEmpty()) {
            throw new Problem(Problem.Kind.NOT_THERE, "there is no page at this address");
        }
        Routes.Found found = routes.find("GET", segments);
        Rights.check(caller, found.operation(), found.places().getOrDefault("namespace", ""));
        incoming.dropBlanks();
        Call call = new Call(found.operation(), brume, limits, caller, incoming, found.places());
        call.readParams();
        Reply reply =
                found.operation().handling().handle(call).toCompletableFuture().join();
        Optional<ZoneId> zone = call.get(Frame.ZONE);
        return zone.map(given -> reply.with(
                        "Set-Cookie",
                        Frame.ZONE_COOKIE + "=" + given.getId() + "; Path=" + incoming.base() + "/; Max-Age=" + A_YEAR
                                + "; SameSite=Strict; HttpOnly"))
                .orElse(reply);
    }

    /** {@return what is said to a person where a page cannot be shown} */
    public Reply problem(Problem problem, Incoming incoming) {
        Reply plain = problem.reply();
        Reply page = Html.page(
                plain.status(),
                "problem",
                Map.of(
                        "base", incoming.base(),
                        "title", problem.kind().title(),
                        "detail", String.valueOf(problem.getMessage()),
                        "again", problem.kind() == Problem.Kind.NOT_NOW));
        for (var header : plain.headers().entrySet()) {
            page = page.with(header.getKey(), header.getValue());
        }
        return page;
    }
}
