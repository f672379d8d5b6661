package dev.brume.cli;

import dev.brume.Brume;
import dev.brume.EngineListener;
import dev.brume.Event;
import dev.brume.JobName;
import dev.brume.NotThereException;
import dev.brume.Orders;
import dev.brume.cli.desk.Desk;
import dev.brume.cli.desk.Lookout;
import dev.brume.cli.desk.Server;
import dev.brume.cli.desk.ServerDesk;
import dev.brume.cli.desk.StoreDesk;
import dev.brume.history.History;
import java.io.PrintWriter;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Supplier;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;

/** Who gives an order, why, and to which database. */
final class OrderOptions {
    private static final int LONGEST_REASON = 500;

    @Option(names = "--because", paramLabel = "TEXT", defaultValue = "", description = "Why, for the change log.")
    private String because;

    @Option(
            names = "--as",
            paramLabel = "NAME",
            defaultValue = "${sys:user.name}",
            description =
                    "Who gives the order, for the change log; default: ${DEFAULT-VALUE}. At a server it is the token's.")
    private String who;

    @Mixin
    private WhereOptions where;

    @Spec(Spec.Target.MIXEE)
    private CommandSpec spec;

    /** Refuses an order that nobody says the reason of. */
    void checkReason(String rule) {
        if (because.isBlank()) {
            throw new UsageException("--because is missing: " + rule + ", so the change log is to say why");
        }
    }

    /** Gives orders; what is wrong with them is the user's mistake. */
    <T> T order(Function<Desk, T> giving) {
        return order(StoreOptions::visit, giving);
    }

    /** Gives orders, in a database that is made if there is none. */
    <T> T orderOrMake(Function<Desk, T> giving) {
        return order(StoreOptions::visitOrMake, giving);
    }

    /** Gives orders that are about the database itself, and that no server passes on. */
    <T> T orderAtDatabase(Function<Orders, T> giving) {
        StoreOptions database = where.database();
        return understood(() -> atStore(database, StoreOptions::visit, desk -> giving.apply(desk.orders())));
    }

    private <T> T order(Function<StoreOptions, StoreOptions.OpenStore> opening, Function<Desk, T> giving) {
        if (because.length() > LONGEST_REASON) {
            throw new UsageException(
                    "--because is " + because.length() + " characters (at most " + LONGEST_REASON + ")");
        }
        Optional<Server> server = where.server();
        return understood(() -> server.isPresent()
                ? give(giving, new ServerDesk(server.get(), reason()))
                : atStore(where.store(), opening, desk -> give(giving, desk)));
    }

    /** Over HTTP, who gives an order is whoever the token was made for. */
    private String reason() {
        if (spec.commandLine().getParseResult().hasMatchedOption("--as")) {
            throw new UsageException(
                    "--as: at a server an order is its token's; brume token add NAME makes one for somebody");
        }
        return because;
    }

    private <T> T atStore(
            StoreOptions store, Function<StoreOptions, StoreOptions.OpenStore> opening, Function<StoreDesk, T> giving) {
        try (StoreOptions.OpenStore open = opening.apply(store)) {
            Brume brume = Brume.on(open.store())
                    .withoutLog()
                    .instance("brume-order")
                    .user(systemUser())
                    .engineListener(problems())
                    .build();
            return giving.apply(new StoreDesk(brume, who, brume.orders(who, because)));
        }
    }

    private static <T> T understood(Supplier<T> order) {
        try {
            return order.get();
        } catch (NotThereException e) {
            throw e;
        } catch (IllegalArgumentException e) {
            throw new UsageException(e);
        }
    }

    /** What an order turns up that needs a person is that person's to read, whether the order was carried out or not. */
    private EngineListener problems() {
        PrintWriter err = spec.commandLine().getErr();
        return new EngineListener() {
            @Override
            public boolean wants(Event.Kind kind) {
                return kind == Event.Kind.PROBLEM;
            }

            @Override
            public void saw(Event event) {
                err.println(
                        "brume: PROBLEM " + event.job().map(job -> job + ": ").orElse("") + event.text());
            }
        };
    }

    /** As the operating system knows them: what is on record beside the name that a person gives. */
    private static String systemUser() {
        String user = ProcessHandle.current().info().user().orElseGet(() -> System.getProperty("user.name", "unknown"));
        return user.replaceAll("[^\\x21-\\x7e]", "-");
    }

    private static <T> T give(Function<Desk, T> giving, Desk desk) {
        try {
            return giving.apply(desk);
        } catch (NotThereException e) {
            throw e.job().map(key -> KnownJobs.missing(desk.history(), key)).orElse(e);
        }
    }

    /** Looks at what is worked out where orders are given. */
    <T> T ask(Function<Lookout, T> asking) {
        return where.ask(asking);
    }

    /** Looks at what orders are given to. */
    <T> T look(Function<History, T> looking) {
        return where.look(looking);
    }

    /** Reads the name of a job. */
    static JobName key(String text) {
        return RunsCommand.key(text);
    }
}
