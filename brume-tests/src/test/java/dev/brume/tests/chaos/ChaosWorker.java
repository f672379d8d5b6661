package dev.brume.tests.chaos;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Event;
import dev.brume.Run;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Duration;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.jspecify.annotations.Nullable;

/**
 * One instance in a process of its own, whose work keeps a record that nobody else writes: a line for each attempt that
 * began. It reads orders from its input: {@code trap NAME} makes it say {@code AT NAME} and stand still the next time it is
 * inside that transaction, before the commit, until {@code go}.
 */
public final class ChaosWorker {
    /** What a URL begins with that stands for an embedded database in a folder. */
    static final String FOLDER = "folder:";

    private static final Duration DRAIN = Duration.ofMillis(300);

    private final Path record;
    private final Traps traps = new Traps();
    private volatile @Nullable EmbeddedDatabase embedded;

    private ChaosWorker(Path record) {
        this.record = record;
    }

    /** Arguments: JDBC URL, schema or {@code -}, name, lease in seconds, record file. */
    public static void main(String[] args) throws Exception {
        new ChaosWorker(Path.of(args[4])).run(args[0], args[1], args[2], Duration.ofSeconds(Long.parseLong(args[3])));
    }

    private void run(String url, String schema, String name, Duration lease) throws Exception {
        HikariConfig config = new HikariConfig();
        if (url.startsWith(FOLDER)) {
            embedded = EmbeddedDatabase.open(Path.of(url.substring(FOLDER.length())), EmbeddedDatabase.Role.HOST);
            config.setDataSource(embedded.opened());
        } else {
            config.setJdbcUrl(url);
        }
        config.setMaximumPoolSize(8);
        config.setMinimumIdle(1);
        config.setConnectionTimeout(1500);
        config.setValidationTimeout(1000);
        config.setInitializationFailTimeout(-1);
        HikariDataSource pool = new HikariDataSource(config);
        JdbcStore.Builder builder = JdbcStore.builder(traps.around(pool))
                .limit(lease.multipliedBy(2).dividedBy(3));
        JdbcStore store =
                schema.equals("-") ? builder.build() : builder.schema(schema).build();
        Brume brume = Brume.on(store)
                .instance(name)
                .workers(8)
                .lease(lease)
                .poll(Duration.ofMillis(200))
                .drainLimit(DRAIN)
                .engineListener(this::saw)
                .build();
        String dues = schema.equals("-") ? "dues" : schema + ".dues";
        brume.handler("note", run -> began(run));
        brume.handler("long", run -> {
            began(run);
            new CountDownLatch(1).await(1500, TimeUnit.MILLISECONDS);
        });
        brume.handler("dues", run -> {
            began(run);
            run.commit(connection -> book(connection, dues, run));
            note("booked", run.id());
        });
        brume.start();
        System.out.println("READY");
        Thread orders = new Thread(this::obey, "orders");
        orders.setDaemon(true);
        orders.start();
        Runtime.getRuntime().addShutdownHook(new Thread(() -> {
            brume.close();
            pool.close();
            Optional.ofNullable(embedded).ifPresent(EmbeddedDatabase::close);
        }));
        brume.awaitStopped();
    }

    /** Ends are told once they are committed. */
    private void saw(Event event) {
        System.out.println(event.kind() + " " + event.text());
        if (event.kind() == Event.Kind.SUCCEEDED) {
            note("ended", event.run().orElseThrow());
        }
    }

    /** Writes down what was acknowledged, beside the record of what began. */
    private void note(String what, long run) {
        try {
            append(record.resolveSibling(record.getFileName() + "-acknowledged"), what + " " + run);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void book(Connection connection, String table, Run run) throws Exception {
        try (PreparedStatement insert = connection.prepareStatement("insert into " + table + " values (?, ?)")) {
            insert.setLong(1, run.id());
            insert.setLong(2, run.fence());
            insert.executeUpdate();
        }
        traps.pass("guarded");
    }

    /** One short line in append mode is written whole. */
    private void began(Run run) throws IOException {
        append(record, run.job() + " " + run.planned() + " " + run.fence());
    }

    private static void append(Path file, String line) throws IOException {
        Files.write(
                file,
                (line + "\n").getBytes(StandardCharsets.UTF_8),
                StandardOpenOption.CREATE,
                StandardOpenOption.APPEND);
    }

    /** Whether this process owns the embedded database. */
    private void sayWhetherItOwns() {
        try (Connection connection = Objects.requireNonNull(embedded).getConnection()) {
            System.out.println("OWNER " + connection.getMetaData().getURL().startsWith("jdbc:h2:async:"));
        } catch (SQLException e) {
            System.out.println("OWNER unknown: " + e.getMessage());
        }
    }

    private void obey() {
        try (BufferedReader orders = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8))) {
            for (String order = orders.readLine(); order != null; order = orders.readLine()) {
                if (order.startsWith("trap ")) {
                    traps.set(order.substring(5));
                } else if (order.equals("go")) {
                    traps.go();
                } else if (order.equals("owner?")) {
                    sayWhetherItOwns();
                }
            }
        } catch (IOException e) {
            System.out.println("no more orders: " + e.getMessage());
        }
    }
}
