package dev.brume.tests.chaos;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dev.brume.Brume;
import dev.brume.Run;
import dev.brume.jdbc.JdbcStore;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.time.Duration;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;

/**
 * One instance in a process of its own, whose work keeps a record that nobody else writes: a line for each attempt that
 * began. It reads orders from its input: {@code trap NAME} makes it say {@code AT NAME} and stand still the next time it is
 * inside that transaction, before the commit, until {@code go}.
 */
public final class ChaosWorker {
    private static final Duration DRAIN = Duration.ofMillis(300);

    private final Path record;
    private final Traps traps = new Traps();

    private ChaosWorker(Path record) {
        this.record = record;
    }

    /** Arguments: JDBC URL, schema or {@code -}, name, lease in seconds, record file. */
    public static void main(String[] args) throws Exception {
        new ChaosWorker(Path.of(args[4])).run(args[0], args[1], args[2], Duration.ofSeconds(Long.parseLong(args[3])));
    }

    private void run(String url, String schema, String name, Duration lease) throws Exception {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url);
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
                .watcher(event -> System.out.println(event.kind() + " " + event.text()))
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
        });
        brume.start();
        System.out.println("READY");
        Thread orders = new Thread(this::obey, "orders");
        orders.setDaemon(true);
        orders.start();
        Runtime.getRuntime().addShutdownHook(new Thread(brume::close));
        brume.awaitStopped();
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
        String line = run.job() + " " + run.planned() + " " + run.fence() + "\n";
        Files.write(
                record, line.getBytes(StandardCharsets.UTF_8), StandardOpenOption.CREATE, StandardOpenOption.APPEND);
    }

    private void obey() {
        try (BufferedReader orders = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8))) {
            for (String order = orders.readLine(); order != null; order = orders.readLine()) {
                if (order.startsWith("trap ")) {
                    traps.set(order.substring(5));
                } else if (order.equals("go")) {
                    traps.go();
                }
            }
        } catch (IOException e) {
            System.out.println("no more orders: " + e.getMessage());
        }
    }
}
