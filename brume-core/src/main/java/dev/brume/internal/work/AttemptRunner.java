package dev.brume.internal.work;

import dev.brume.AttemptEnd;
import dev.brume.Failure;
import dev.brume.Handler;
import dev.brume.Mask;
import dev.brume.StopReason;
import dev.brume.Work;
import dev.brume.internal.run.RunContext;
import dev.brume.internal.text.Placeholders;
import dev.brume.internal.text.Texts;
import dev.brume.spi.Completion;
import dev.brume.spi.LeasedRun;
import dev.brume.spi.TimeSource;
import dev.brume.spi.Traces;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;

/** Carries out attempts on the caller's thread. Every attempt comes to one end, whatever the work throws. */
public final class AttemptRunner {
    private static final Logger LOG = LoggerFactory.getLogger(AttemptRunner.class);
    private static final int LONGEST_ERROR = 4000;
    private static final int LONGEST_LINE = 300;
    static final int LONGEST_RESULT = 64 * 1024;

    /** How many times what is kept. */
    private static final int LOOKED_AT = 4;

    private final Map<String, Handler> handlers;
    private final RunContext context;
    private final Around around;
    private final TimeSource time;
    private Optional<Handler> instead = Optional.empty();

    /**
     * Creates the runner.
     *
     * @param handlers by name; may change while it runs
     */
    public AttemptRunner(Map<String, Handler> handlers, RunContext context, Around around, TimeSource time) {
        this.handlers = handlers;
        this.context = context;
        this.around = around;
        this.time = time;
    }

    /** Has all work done by a handler instead; before the first attempt. */
    public void doneBy(Handler handler) {
        instead = Optional.of(handler);
    }

    /** Carries an attempt out; returns how it ended. */
    public Completion carryOut(ActiveAttempt attempt) {
        LeasedRun run = attempt.run();
        OutputBuffer output = new OutputBuffer();
        long started = time.nanos();
        HandlerRun handed = new HandlerRun(attempt, output, context, time, started);
        Traces.Attempted span = context.traces().attempt(handed);
        handed.traced(context.traces().here());
        Ending ending;
        MDC.put("brumeRun", Long.toString(run.id()));
        MDC.put("brumeJob", run.job().name().toString());
        context.printing().began(run, new PrintedSoFar(output, attempt));
        try {
            ending = work(attempt, output, handed);
        } finally {
            context.printing().ended(run);
            MDC.remove("brumeRun");
            MDC.remove("brumeJob");
        }
        long ended = time.nanos();
        if (isOverdue(ending, attempt, ended - started)) {
            ending = ending.timedOut();
        }
        Mask mask = attempt.mask();
        Optional<String> error = ending.error.map(text -> recorded(Texts.visible(text), mask, LONGEST_ERROR));
        span.ended(ending.end, error);
        return new Completion(
                run,
                run.attempt(started, ended, ending.end, error).withTrace(handed.trace()),
                ending.result.map(text -> recordedResult(text, mask)),
                output.output(mask),
                ending.failure,
                ending.recorded);
    }

    /** Work that swallows the interrupt at its time limit has still not kept to it, however well it thinks that it went. */
    private static boolean isOverdue(Ending ending, ActiveAttempt attempt, long tookNanos) {
        boolean ownEnd = ending.end == AttemptEnd.SUCCEEDED || ending.end == AttemptEnd.FAILED;
        boolean cut = attempt.stopAsked().filter(StopReason.TIME_LIMIT::equals).isPresent() && attempt.wasCut();
        boolean tookLonger = attempt.run()
                .job()
                .longestAttempt()
                .filter(limit -> Duration.ofNanos(tookNanos).compareTo(limit) > 0)
                .isPresent();
        return ownEnd && !ending.recorded && (cut || tookLonger);
    }

    private record Ending(
            AttemptEnd end, Optional<String> error, Optional<String> result, Failure failure, boolean recorded) {
        Ending timedOut() {
            String what = error.orElse("it had not ended by then");
            return new Ending(
                    AttemptEnd.TIMED_OUT, Optional.of("stopped at its time limit: " + what), result, failure, recorded);
        }

        static Ending turnedDown(String why) {
            return new Ending(
                    AttemptEnd.TURNED_DOWN, Optional.of(why), Optional.empty(), Failure.UNKNOWN, /* recorded= */ false);
        }

        static Ending well(Optional<String> result, boolean recorded) {
            return new Ending(AttemptEnd.SUCCEEDED, Optional.empty(), result, Failure.UNKNOWN, recorded);
        }
    }

    private Ending work(ActiveAttempt attempt, OutputBuffer output, HandlerRun run) {
        if (attempt.stopAsked().isPresent()) {
            return failed(attempt, /* stopped= */ true, "before it began", Failure.UNKNOWN, run);
        }
        try {
            Optional<String> no = around.checks().ask(run, attempt.run().job());
            if (no.isPresent()) {
                return Ending.turnedDown(no.get());
            }
            Work work = attempt.run().job().work();
            if (!context.takes(work)) {
                throw new WorkFailed("this instance is not one that " + Work.inWords(work.needs()), Failure.UNKNOWN);
            }
            around.interceptors().around(run, attempt.run().job(), () -> carryOut(work, attempt, output, run));
            return Ending.well(run.result(), run.committed());
        } catch (WorkFailed e) {
            String said = e.failure()
                    .exitCode()
                    .flatMap(code -> lastLine(attempt, output))
                    .map(line -> ": " + line)
                    .orElse("");
            return failed(attempt, attempt.wasCut(), e.message() + said, e.failure(), run);
        } catch (Throwable e) {
            if (e instanceof VirtualMachineError) {
                LOG.error("run {} of {} met an error of the virtual machine", run.id(), run.job(), e);
            } else {
                LOG.debug("run {} of {} threw", run.id(), run.job(), e);
            }
            return failed(attempt, attempt.stopAsked().isPresent(), StackText.of(e), Failure.thrown(e), run);
        }
    }

    private void carryOut(Work work, ActiveAttempt attempt, OutputBuffer output, HandlerRun run) throws Exception {
        if (instead.isPresent()) {
            instead.get().run(run);
        } else if (work instanceof Work.Program program) {
            new ProgramRunner(
                            attempt, output, parentFacts(run), context.traces().passedOn())
                    .run(program);
        } else if (work instanceof Work.Request request) {
            new RequestRunner(
                            attempt,
                            output,
                            time,
                            run::result,
                            parentFacts(run),
                            context.traces().passedOn())
                    .run(request);
        } else {
            handler(attempt.run()).run(run);
        }
    }

    /** The last that a program said, which mostly tells why it failed. */
    private static Optional<String> lastLine(ActiveAttempt attempt, OutputBuffer output) {
        return output.output(attempt.mask())
                .flatMap(all ->
                        all.text().lines().filter(line -> !line.isBlank()).reduce((a, b) -> b))
                .map(String::strip)
                .map(line -> line.length() > LONGEST_LINE ? line.substring(0, LONGEST_LINE) + "..." : line);
    }

    /** The facts of the run that this one follows, by the names of placeholders. */
    private static Map<String, String> parentFacts(HandlerRun run) {
        Map<String, String> facts = new HashMap<>();
        Placeholders.PARENT.forEach(name -> facts.put(name, ""));
        run.parent().ifPresent(parent -> {
            facts.put("parent", Long.toString(parent.run()));
            facts.put("parentJob", parent.job().toString());
            facts.put("parentOutcome", parent.outcome().name());
            facts.put("parentResult", parent.result().orElse(""));
        });
        return facts;
    }

    private Handler handler(LeasedRun run) {
        String name = run.job().work().neededHandler().orElseThrow();
        Handler handler = handlers.get(name);
        if (handler == null) {
            throw new IllegalStateException("this instance no longer has a handler '" + name + "'");
        }
        return handler;
    }

    private static Ending failed(
            ActiveAttempt attempt, boolean stopped, String error, Failure failure, HandlerRun run) {
        if (run.committed()) {
            LOG.warn(
                    "run {} of {} threw after it had been committed; it counts as succeeded: {}",
                    run.id(),
                    run.job(),
                    error);
            return Ending.well(run.result(), /* recorded= */ true);
        }
        AttemptEnd end = AttemptEnd.FAILED;
        String why = error;
        if (stopped) {
            StopReason reason = attempt.stopAsked().orElseThrow();
            end = switch (reason) {
                case TIME_LIMIT -> AttemptEnd.TIMED_OUT;
                case DRAINING -> AttemptEnd.HANDED_BACK;
                case CANCELLED -> AttemptEnd.CANCELLED;
                case SUPERSEDED -> AttemptEnd.SUPERSEDED;
                case LEASE_LOST -> AttemptEnd.LOST;
            };
            why = switch (reason) {
                case TIME_LIMIT -> "stopped at its time limit: " + error;
                case DRAINING -> "stopped because the instance was stopping";
                case CANCELLED, SUPERSEDED -> "";
                case LEASE_LOST -> "stopped because the instance could not renew its lease";
            };
        }
        return new Ending(
                end, Optional.of(why).filter(text -> !text.isEmpty()), run.result(), failure, /* recorded= */ false);
    }

    static String recordedResult(String text, Mask mask) {
        return recorded(text, mask, LONGEST_RESULT);
    }

    /**
     * Masks secrets before it cuts the text off, since part of a secret would not be recognised. Of a very long text only the
     * beginning is looked at, and what of that may end in part of a secret goes.
     */
    private static String recorded(String text, Mask mask, int longest) {
        boolean isWhole = text.length() <= LOOKED_AT * longest;
        String masked = mask.apply(isWhole ? text : text.substring(0, LOOKED_AT * longest));
        int kept = Math.min(longest, isWhole ? masked.length() : Math.max(0, masked.length() - longest));
        int leftOut = text.length() - kept;
        return Texts.clean(
                isWhole && kept == masked.length()
                        ? masked
                        : masked.substring(0, kept) + "[... " + leftOut + " characters left out]");
    }
}
