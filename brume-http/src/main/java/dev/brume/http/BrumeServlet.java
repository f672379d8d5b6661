package dev.brume.http;

import dev.brume.Brume;
import dev.brume.EditConflictException;
import dev.brume.MissingRightException;
import dev.brume.NotAllowedException;
import dev.brume.NotThereException;
import dev.brume.OrderKeyTakenException;
import dev.brume.ReadOnlyStoreException;
import dev.brume.StoreException;
import dev.brume.definitions.DefinitionsException;
import dev.brume.http.internal.access.Door;
import dev.brume.http.internal.access.Entry;
import dev.brume.http.internal.access.OwnDoor;
import dev.brume.http.internal.access.Sender;
import dev.brume.http.internal.access.WrongToken;
import dev.brume.http.internal.console.Console;
import dev.brume.http.internal.describe.OpenApi;
import dev.brume.http.internal.live.Hub;
import dev.brume.http.internal.web.Call;
import dev.brume.http.internal.web.FieldError;
import dev.brume.http.internal.web.Incoming;
import dev.brume.http.internal.web.Problem;
import dev.brume.http.internal.web.Problem.Kind;
import dev.brume.http.internal.web.Replies;
import dev.brume.http.internal.web.Reply;
import dev.brume.http.internal.web.Rights;
import dev.brume.http.internal.web.Routes;
import jakarta.servlet.AsyncContext;
import jakarta.servlet.http.HttpServlet;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Answers requests: who asks, what they ask for, whether they may, and what is said. */
final class BrumeServlet extends HttpServlet {
    private static final long serialVersionUID = 1L;
    private static final Logger LOG = LoggerFactory.getLogger(BrumeServlet.class);
    private static final String API = "/api/v1";
    private static final Set<String> KNOWN_METHODS = Set.of("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS");
    private static final Set<String> LOOKING = Set.of("GET", "HEAD", "OPTIONS");
    /** Stands for an answer that is written by somebody else from now on. */
    private static final CompletionStage<Reply> STREAMED = new CompletableFuture<>();

    private static final int LONGEST_HEADERS = 16_000;
    private static final int LONGEST_PATH = 1_000;
    private static final String SOON = "1";
    private static final String STORE_AWAY = "5";

    private final transient Brume brume;
    private final transient HttpLimits limits;
    private final transient Door door;
    private final transient Set<String> proxies;
    private final transient Routes routes;
    private final transient Hub hub;
    private final transient Semaphore places;
    private final transient SignIns signIns;
    private final transient OpenPaths open;
    private final transient Framing framing;
    private final transient Console console;
    private final transient Supplier<Reply> description;

    BrumeServlet(
            Brume brume,
            HttpLimits limits,
            Door door,
            Optional<OwnDoor> ownDoor,
            Set<String> proxies,
            Set<String> framedBy,
            Routes routes,
            Hub hub,
            Optional<MetricsText> metrics) {
        this.brume = brume;
        this.limits = limits;
        this.door = door;
        this.proxies = proxies;
        this.framing = new Framing(framedBy);
        this.routes = routes;
        this.hub = hub;
        this.places = new Semaphore(limits.requests());
        this.signIns = new SignIns(ownDoor);
        this.open = new OpenPaths(brume, metrics);
        this.console = new Console(brume, limits, ownDoor.isPresent(), System::nanoTime);
        this.description = new Once<>(() -> Reply.json(OpenApi.of(routes.all())));
    }

    String description() {
        return new String(description.get().bytes().orElseThrow(), StandardCharsets.UTF_8);
    }

    @Override
    protected void service(HttpServletRequest request, HttpServletResponse response) throws IOException {
        framing.guard(request, response);
        if (!places.tryAcquire()) {
            Replies.send(
                    request,
                    response,
                    new Problem(
                                    Kind.NOT_NOW,
                                    limits.requests() + " requests are being answered, and no more are at once")
                            .with("Retry-After", SOON)
                            .reply());
            return;
        }
        try {
            CompletionStage<Reply> reply = answer(request, response);
            if (reply == STREAMED) {
                return;
            }
            if (reply.toCompletableFuture().isDone()) {
                Replies.send(request, response, reply.toCompletableFuture().join());
            } else {
                later(request, response, reply);
            }
        } catch (CompletionException | WrongToken e) {
            refuse(request, response, e);
        } catch (RuntimeException e) {
            Replies.send(request, response, problem(e).reply());
        } finally {
            places.release();
        }
    }

    private void refuse(HttpServletRequest request, HttpServletResponse response, RuntimeException wrong)
            throws IOException {
        if (!(wrong instanceof WrongToken token)) {
            Replies.send(request, response, problem(wrong.getCause()).reply());
            return;
        }
        Reply reply = token.reply();
        if (token.waitMillis() == 0) {
            Replies.send(request, response, reply);
            return;
        }
        later(
                request,
                response,
                CompletableFuture.supplyAsync(
                        () -> reply, CompletableFuture.delayedExecutor(token.waitMillis(), TimeUnit.MILLISECONDS)));
    }

    /** Gives the thread back until there is something to say. */
    private void later(HttpServletRequest request, HttpServletResponse response, CompletionStage<Reply> reply) {
        Replies.readRest(request, response);
        AsyncContext async = request.startAsync();
        async.setTimeout(0);
        reply.whenComplete((said, failed) -> {
            try {
                Replies.send(
                        request,
                        response,
                        failed == null
                                ? said
                                : problem(failed instanceof CompletionException ? failed.getCause() : failed)
                                        .reply());
            } catch (IOException gone) {
                LOG.debug("whoever waited has left", gone);
            } catch (RuntimeException broken) {
                LOG.error("an answer could not be written", broken);
                if (!response.isCommitted()) {
                    response.setStatus(Kind.BROKEN.status());
                }
            } finally {
                async.complete();
            }
        });
    }

    private CompletionStage<Reply> answer(HttpServletRequest request, HttpServletResponse response) {
        if (!KNOWN_METHODS.contains(request.getMethod())) {
            throw new Problem(Kind.NO_SUCH_METHOD, "this method is not known here")
                    .with("Allow", "DELETE, GET, HEAD, OPTIONS, PATCH, POST, PUT");
        }
        checkHeaders(request);
        Sender from = Sender.of(request, proxies);
        Incoming incoming = new Incoming(request, from.address(), limits.query());
        String path = incoming.path();
        if (path.length() > LONGEST_PATH) {
            throw new Problem(Kind.NOT_THERE, "the path is longer than " + LONGEST_PATH + " characters");
        }
        Optional<Reply> health = open.health(path, request.getMethod());
        if (health.isPresent()) {
            return CompletableFuture.completedFuture(health.get());
        }
        boolean isForPeople = incoming.showsPages() && !path.startsWith(API + "/");
        try {
            return answer(request, response, from, incoming, isForPeople);
        } catch (StoreException e) {
            if (!isForPeople) {
                throw e;
            }
            return CompletableFuture.completedFuture(console.problem(problem(e), incoming));
        }
    }

    private CompletionStage<Reply> answer(
            HttpServletRequest request,
            HttpServletResponse response,
            Sender from,
            Incoming incoming,
            boolean isForPeople) {
        String path = incoming.path();
        Optional<Reply> page = signIns.answer(request, from, incoming)
                .or(() -> console.file(path))
                .or(() -> framing.answer(incoming, request.getMethod()));
        if (page.isPresent()) {
            return CompletableFuture.completedFuture(page.get());
        }
        boolean isPage = console.has(request.getMethod(), path);
        Optional<Entry> entered = door.enter(request, from);
        if (entered.isEmpty() && isPage && incoming.showsPages() && signIns.areHere()) {
            return CompletableFuture.completedFuture(signIns.first(incoming));
        }
        Entry entry = entered.orElseThrow(() -> new Problem(
                        Kind.WHO_IS_IT, "this takes a token (Authorization: Bearer TOKEN), or to sign in at /sign-in")
                .with("WWW-Authenticate", "Bearer realm=\"brume\""));
        Replies.entered(request);
        if (!LOOKING.contains(request.getMethod()) && entry.byBrowser()) {
            SameSite.check(request, from);
        }
        Optional<Reply> metrics = open.metrics(path, entry.caller());
        if (metrics.isPresent()) {
            return CompletableFuture.completedFuture(metrics.get());
        }
        if (isPage || isForPeople && LOOKING.contains(request.getMethod())) {
            return CompletableFuture.completedFuture(page(entry, incoming));
        }
        return operation(request, response, incoming, entry, path);
    }

    private Reply page(Entry entry, Incoming incoming) {
        try {
            return console.page(entry.caller(), incoming);
        } catch (RuntimeException e) {
            Problem problem = problem(e);
            return incoming.showsPages() ? console.problem(problem, incoming) : problem.reply();
        }
    }

    private CompletionStage<Reply> operation(
            HttpServletRequest request, HttpServletResponse response, Incoming incoming, Entry entry, String path) {
        if (!path.startsWith(API + "/")) {
            throw new Problem(Kind.NOT_THERE, "there is nothing at this address; what there is is below " + API);
        }
        List<String> segments = Incoming.segments(path.substring(API.length() + 1));
        if (segments.equals(List.of("openapi.json")) && LOOKING.contains(request.getMethod())) {
            return CompletableFuture.completedFuture(description.get());
        }
        if (request.getMethod().equals("OPTIONS")) {
            String methods = routes.methods(segments)
                    .orElseThrow(() -> new Problem(Kind.NOT_THERE, "there is nothing at this address"));
            return CompletableFuture.completedFuture(Reply.nothing(204).with("Allow", methods));
        }
        Routes.Found found = routes.find(request.getMethod(), segments);
        Rights.check(entry.caller(), found.operation(), found.places().getOrDefault("namespace", ""));
        Call call = new Call(found.operation(), brume, limits, entry.caller(), incoming, found.places());
        call.readParams();
        if (found.operation().id().equals(Hub.OPERATION)) {
            hub.open(request, response, call, entry.isStillGood());
            return STREAMED;
        }
        CompletionStage<Reply> reply = found.operation().handling().handle(call);
        return call.asOf()
                .map(then -> reply.thenApply(answer -> answer.with("Brume-As-Of", then.toString())))
                .orElse(reply);
    }

    private static void checkHeaders(HttpServletRequest request) {
        int length = 0;
        for (var names = request.getHeaderNames(); names.hasMoreElements(); ) {
            String name = names.nextElement();
            for (var values = request.getHeaders(name); values.hasMoreElements(); ) {
                length += name.length() + values.nextElement().length();
            }
        }
        if (length > LONGEST_HEADERS) {
            throw new Problem(
                    Kind.HEADERS_TOO_LARGE,
                    "the headers are " + length + " characters (at most " + LONGEST_HEADERS + ")");
        }
    }

    /** What went wrong, for whoever asked: nothing of how it is done here. */
    private static Problem problem(Throwable failed) {
        if (failed instanceof Problem known) {
            return known;
        }
        if (failed instanceof DefinitionsException wrong) {
            return Problem.invalid(wrong.problems().stream().map(FieldError::of).toList());
        }
        if (failed instanceof NotThereException) {
            return new Problem(Kind.NOT_THERE, message(failed));
        }
        if (failed instanceof EditConflictException) {
            return new Problem(Kind.CHANGED_MEANWHILE, message(failed));
        }
        if (failed instanceof NotAllowedException refused) {
            return new Problem(
                    Kind.REFUSED,
                    message(failed),
                    refused.refusals().stream()
                            .map(text -> FieldError.ofMember("", text))
                            .toList());
        }
        if (failed instanceof OrderKeyTakenException || failed instanceof IllegalArgumentException) {
            return new Problem(Kind.REFUSED, message(failed));
        }
        if (failed instanceof MissingRightException || failed instanceof ReadOnlyStoreException) {
            return new Problem(Kind.NOT_NOW, message(failed)).with("Retry-After", "60");
        }
        if (failed instanceof StoreException) {
            LOG.warn("the store could not answer", failed);
            return new Problem(Kind.NOT_NOW, "the store cannot answer now; try again").with("Retry-After", STORE_AWAY);
        }
        LOG.error("a request could not be answered", failed);
        return new Problem(Kind.BROKEN, "something here is broken; the log of this instance says what");
    }

    private static String message(Throwable failed) {
        return String.valueOf(failed.getMessage());
    }
}
