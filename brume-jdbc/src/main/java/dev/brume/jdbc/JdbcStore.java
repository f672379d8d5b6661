package dev.brume.jdbc;

import dev.brume.Configuration;
import dev.brume.GuardedWork;
import dev.brume.LeaseLostException;
import dev.brume.OwnTransaction;
import dev.brume.PoolTooSmallException;
import dev.brume.StoreException;
import dev.brume.history.History;
import dev.brume.history.LeaseKey;
import dev.brume.schedule.Durations;
import dev.brume.spi.Outlook;
import dev.brume.spi.RunEnd;
import dev.brume.spi.Store;
import dev.brume.spi.Transaction;
import dev.brume.spi.WakeUps;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A store in a relational database, over connections of the application's own.
 *
 * <p>Connections come from a {@link DataSource}, preferably a pool of at least four. While an instance runs it keeps one of them for the renewal of
 * its lease, and on PostgreSQL another that listens. Within its
 * transactions the store sets isolation and time limits for that transaction only, so that a pool gets
 * its connections back as they were. Safe for use by many threads; closing it leaves the data source
 * open.
 *
 * @since 0.1.0
 */
public final class JdbcStore implements Store {
    /** How long one statement, a wait for a lock, or a pause within a transaction may last. */
    public static final Duration LIMIT = Duration.ofSeconds(10);

    private static final Logger LOG = LoggerFactory.getLogger(JdbcStore.class);
    private static final Duration LONGEST_LOOK = Duration.ofMinutes(1);
    private static final int MOST_STUMBLES = 10;
    private static final Pattern SCHEMA = Pattern.compile("[a-z_][a-z0-9_]{0,62}");

    private final DataSource dataSource;
    private final Optional<String> schema;
    private final String description;
    private final boolean managed;
    private final boolean creates;
    private final boolean calls;
    private final boolean limitIsSet;
    private final Feeding feeding;
    private final Noting noting = new Noting();
    private final Optional<InstantSource> virtual;
    private final ReservedConnection reserved = new ReservedConnection();
    private final SchemaNames names;
    private final VersionReader versions = new VersionReader();
    private final History history = new JdbcHistory(this);
    private volatile Duration limit;
    private volatile @Nullable Kind kind;
    private volatile List<String> concerns = List.of();

    /** The facts about the database that the first connection told. */
    private record Kind(Dialect dialect, Manners manners, Optional<NumberFile> numbers) {}

    private JdbcStore(Builder builder) {
        dataSource = builder.dataSource;
        schema = builder.schema;
        names = new SchemaNames(schema);
        description = builder.description;
        managed = builder.managed;
        creates = builder.creates;
        calls = builder.calls;
        limit = builder.limit.orElse(LIMIT);
        limitIsSet = builder.limit.isPresent();
        virtual = builder.virtual;
        feeding = new Feeding(limit.compareTo(LIMIT) > 0 ? limit : LIMIT);
    }

    /** {@return a store on a data source, with its tables in the default schema of its connections} */
    public static JdbcStore on(DataSource dataSource) {
        return new Builder(dataSource).build();
    }

    /** Begins to set up a store on a data source. */
    public static Builder builder(DataSource dataSource) {
        return new Builder(dataSource);
    }

    /**
     * {@return the SQL that creates the tables, for an administrator to run}
     *
     * @param database {@code postgresql}, {@code mariadb} or {@code h2}
     * @throws IllegalArgumentException if there is no script for that database
     */
    public static String schemaScript(String database) {
        Dialect dialect = Dialect.named(database);
        StringBuilder script = new StringBuilder(SchemaMigrator.historyTable(dialect)).append(";\n");
        if (dialect.writesInTurn()) {
            script.append(WritingTurn.TABLE).append(";\n");
        }
        for (int version = 1; version <= SchemaMigrator.NEWEST; version++) {
            script.append(SchemaMigrator.script(dialect, version));
            script.append(SchemaMigrator.note(dialect, version)).append('\n');
        }
        return script.toString();
    }

    /**
     * {@return the SQL that gives two roles their rights on the tables, for an administrator to run after them: one that works
     * and may only add to the ledger, and one that alone may remove lines from it}
     *
     * @param database {@code postgresql} or {@code mariadb}
     * @throws IllegalArgumentException if there is no such script, or a role has no plain name
     */
    public static String rolesScript(String database, String application, String retention) {
        return RolesScript.of(
                Dialect.named(database),
                RolesScript.checked(application),
                Optional.empty(),
                RolesScript.checked(retention));
    }

    /**
     * {@return the same with a third role, which alone may define what is run: jobs, calendars and who follows whom; the application's role runs, plans and
     * orders what is defined}
     *
     * @param database {@code postgresql} or {@code mariadb}
     * @throws IllegalArgumentException if there is no such script, or a role has no plain name
     */
    public static String rolesScript(String database, String application, String definer, String retention) {
        return RolesScript.of(
                Dialect.named(database),
                RolesScript.checked(application),
                Optional.of(RolesScript.checked(definer)),
                RolesScript.checked(retention));
    }

    @Override
    public void prepare() {
        withConnection(connection -> {
            Dialect found = Dialect.of(connection);
            if (virtual.isPresent() && found != Dialect.H2) {
                throw new SQLException("a clock other than the database's own can be given for H2 only");
            }
            SchemaMigrator migrator = new SchemaMigrator(found, schema, names::in, description);
            if (managed) {
                migrator.migrate(connection, dataSource::getConnection, creates);
                if (found.writesInTurn()) {
                    turn().prepare(connection);
                }
            } else {
                migrator.verify(connection);
            }
            if (found == Dialect.H2) {
                concerns = H2Manners.settle(connection, turn(), managed);
                concerns.forEach(concern -> LOG.warn("{}: {}", description, concern));
            }
            return found;
        });
        kind().numbers.filter(file -> managed || file.isUnused()).ifPresent(this::handOver);
    }

    private void handOver(NumberFile numbers) {
        read(sql -> {
            new NumberHandover(sql, schema, numbers).run();
            return numbers;
        });
    }

    @Override
    public List<String> concerns() {
        return concerns;
    }

    private String channel() {
        return schema.map(name -> "brume_" + name).orElse("brume");
    }

    @Override
    public void wake() {
        call("notify " + channel());
    }

    @Override
    public boolean callsAtEnds() {
        return calls && dialect() == Dialect.POSTGRESQL && driverListens();
    }

    @Override
    public void awaitEnds(Duration time) {
        call("update " + schema.map(name -> name + ".").orElse("")
                + "brume_awaiting set until_at = clock_timestamp() + interval '" + time.toSeconds()
                + "' second where id = 1");
    }

    @Override
    public void callAtEnds() {
        call("notify " + channel() + ", '" + PostgresWakeUps.ENDS + "'");
    }

    private void call(String statement) {
        if (calls && dialect() == Dialect.POSTGRESQL) {
            withinLimit(limit, connection -> {
                try (Statement calling = connection.createStatement()) {
                    return calling.execute(statement);
                }
            });
        }
    }

    /** The lease's, one that listens, and one that all that is to be done takes turns on. */
    @Override
    public void checkRoom() {
        int needed = calls && dialect() == Dialect.POSTGRESQL && driverListens() ? 3 : 2;
        List<Connection> held = new ArrayList<>();
        try {
            while (held.size() < needed) {
                held.add(dataSource.getConnection());
            }
        } catch (SQLException e) {
            if (held.isEmpty()) {
                LOG.debug("{}: how many connections there are cannot be told yet", description, e);
                return;
            }
            throw new PoolTooSmallException(
                    "the pool of " + description + " gives " + held.size() + " of the " + needed
                            + " connections at once that an instance cannot do without: one for its lease, one for what is to"
                            + " be done" + (needed == 3 ? ", one on which it listens (withoutCalls() spares that)" : "")
                            + "; let it have five more than the application uses itself",
                    e);
        } finally {
            held.forEach(this::giveBack);
        }
    }

    private void giveBack(Connection connection) {
        try {
            connection.close();
        } catch (SQLException e) {
            LOG.debug("{}: a connection could not be given back", description, e);
        }
    }

    @Override
    public Optional<WakeUps> wakeUps() {
        if (!calls || dialect() != Dialect.POSTGRESQL || !driverListens()) {
            return Optional.empty();
        }
        try {
            Connection connection = dataSource.getConnection();
            try {
                Optional<WakeUps> opened = PostgresWakeUps.on(connection, channel(), description);
                if (opened.isEmpty()) {
                    connection.close();
                }
                return opened;
            } catch (SQLException e) {
                connection.close();
                throw e;
            }
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        }
    }

    private static boolean driverListens() {
        try {
            Class.forName("org.postgresql.PGConnection");
            return true;
        } catch (ClassNotFoundException e) {
            return false;
        }
    }

    @Override
    public void forget() {
        versions.forget();
        noting.forget();
    }

    @Override
    public String description() {
        return description;
    }

    @Override
    public History history() {
        return history;
    }

    @Override
    public void fit(Duration lease) {
        if (limitIsSet && limit.compareTo(lease) >= 0) {
            throw new IllegalArgumentException("lease: " + Durations.format(lease) + " is not longer than the "
                    + Durations.format(limit)
                    + " that one statement of the store may last, so it would end while one hangs; set a longer lease, or a"
                    + " shorter JdbcStore.builder(...).limit(...)");
        }
        Duration fitting = lease.multipliedBy(2).dividedBy(3);
        if (!limitIsSet && fitting.compareTo(limit) < 0) {
            limit = fitting;
            kind = null;
        }
    }

    @Override
    public void releaseReserved() {
        reserved.release();
    }

    /** Gives back the connection that it kept; the data source belongs to whoever opened it. */
    @Override
    public void close() {
        releaseReserved();
    }

    Dialect dialect() {
        return kind().dialect;
    }

    private Kind kind() {
        Kind found = kind;
        if (found == null) {
            found = withConnection(connection -> {
                Dialect dialect = Dialect.of(connection);
                Optional<WritingTurn> turn = dialect.writesInTurn() ? Optional.of(turn()) : Optional.empty();
                return new Kind(dialect, Manners.of(dialect, connection, turn, limit), numberFile(dialect));
            });
            kind = found;
        }
        return found;
    }

    private WritingTurn turn() {
        return new WritingTurn(names::in, limit);
    }

    private Optional<NumberFile> numberFile(Dialect dialect) throws SQLException {
        return dialect == Dialect.H2 && dataSource.isWrapperFor(EmbeddedDatabase.class)
                ? Optional.of(dataSource.unwrap(EmbeddedDatabase.class).numbers())
                : Optional.empty();
    }

    private NumberSource numbers(Statements sql) {
        Kind known = kind();
        return known.numbers.isPresent()
                ? new NumberSource.Beside(known.numbers.get())
                : new NumberSource.Sequences(sql, known.dialect);
    }

    /** The schema that the tables are in, unless it is the connections' own. */
    Optional<String> schema() {
        return schema;
    }

    /** A step on a connection. */
    interface Step<T> {
        T on(Connection connection) throws SQLException;
    }

    /** Runs a step outside any transaction. */
    <T> T withConnection(Step<T> step) {
        try (Connection connection = dataSource.getConnection()) {
            T result = step.on(connection);
            if (!connection.getAutoCommit()) {
                connection.commit();
            }
            return result;
        } catch (SQLException | Statements.UncheckedSql e) {
            throw SqlErrors.wrap(description, e);
        } catch (AssertionError e) {
            throw SqlErrors.ofDatabase(description, e);
        }
    }

    VersionReader versions() {
        return versions;
    }

    /** Looks something up for people, who are patient, but not for ever. */
    <T> T read(Function<Statements, T> query) {
        return look(LONGEST_LOOK, query);
    }

    /** Runs a query outside any transaction, each statement of which may last so long. */
    private <T> T look(Duration most, Function<Statements, T> query) {
        return withinLimit(most, connection -> query.apply(statements(connection, most)));
    }

    private Statements statements(Connection connection, Duration most) {
        return new Statements(connection, dialect(), names::in).within(most);
    }

    /** Runs a step on a connection whose answers may take so long. */
    private <T> T withinLimit(Duration most, Step<T> step) {
        Manners manners = kind().manners;
        return withConnection(connection -> {
            try (Manners.Look look = manners.look(connection, most)) {
                return step.on(look.connection());
            }
        });
    }

    /** Reads from one snapshot, in a transaction that writes nothing; the connection goes back as it was. */
    <T> T snapshot(Function<Statements, T> query) {
        return withinLimit(LONGEST_LOOK, connection -> {
            boolean automatic = connection.getAutoCommit();
            int isolation = connection.getTransactionIsolation();
            connection.setTransactionIsolation(Connection.TRANSACTION_REPEATABLE_READ);
            connection.setAutoCommit(false);
            boolean read = false;
            try {
                Statements sql = statements(connection, LONGEST_LOOK);
                dialect().holdMonths(sql);
                T found = query.apply(sql);
                // Where it is rolled back, H2 forgets all statements of the connection, and parses each anew.
                connection.commit();
                read = true;
                return found;
            } finally {
                if (!read) {
                    connection.rollback();
                }
                connection.setAutoCommit(automatic);
                connection.setTransactionIsolation(isolation);
            }
        });
    }

    /** {@return what time it is, if that is not the database's to say} */
    private Optional<Instant> virtualNow() {
        return virtual.map(clock -> clock.instant().truncatedTo(ChronoUnit.MICROS));
    }

    /** H2 lets one write after the other. */
    @Override
    public boolean locksRowsAlone() {
        return dialect() != Dialect.H2;
    }

    Instant clock() {
        return virtualNow().orElseGet(() -> look(limit, sql -> clock(sql, dialect())));
    }

    /** H2 looks at all its sessions for it, and stumbles over one that ends its transaction at that instant; then it is asked again. */
    static Instant clock(Statements sql, Dialect dialect) {
        for (int i = 1; i < MOST_STUMBLES; i++) {
            try {
                return clockOnce(sql, dialect);
            } catch (Statements.UncheckedSql e) {
                if (!SqlErrors.isStumble(e.sql())) {
                    throw e;
                }
            }
        }
        return clockOnce(sql, dialect);
    }

    private static Instant clockOnce(Statements sql, Dialect dialect) {
        return sql.first(dialect.clockQuery(), row -> row.instant("clock"))
                .orElseThrow()
                .truncatedTo(ChronoUnit.MICROS);
    }

    @Override
    public <T> T transact(Function<Transaction, T> steps) {
        Dialect known = dialect();
        try (Connection connection = dataSource.getConnection()) {
            return transact(connection, known, steps);
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        } catch (AssertionError e) {
            throw SqlErrors.ofDatabase(description, e);
        }
    }

    @Override
    public <T> T transactReserved(Function<Transaction, T> steps) {
        Dialect known = dialect();
        try {
            return reserved.use(
                    dataSource::getConnection,
                    connection -> {
                        try {
                            return transact(connection, known, steps);
                        } catch (SQLException e) {
                            throw SqlErrors.wrap(description, e);
                        }
                    },
                    () -> transact(steps));
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        } catch (AssertionError e) {
            throw SqlErrors.ofDatabase(description, e);
        }
    }

    private <T> T transact(Connection connection, Dialect known, Function<Transaction, T> steps) throws SQLException {
        Manners.Before before = kind().manners.begin(connection);
        T result;
        try {
            Statements sql = new Statements(connection, known, names::in);
            JdbcTransaction tx = transaction(sql, known);
            result = steps.apply(tx);
            tx.finish();
        } catch (Statements.UncheckedSql e) {
            throw rolledBack(before, SqlErrors.wrap(description, e.sql()));
        } catch (RuntimeException e) {
            throw rolledBack(before, e);
        } catch (Error e) {
            throw rolledBack(before, e);
        }
        commit(connection, before);
        return result;
    }

    @Override
    public <T> T join(Connection connection, Function<Transaction, T> steps) {
        Dialect known = dialect();
        try {
            JdbcTransaction tx = transaction(new Statements(connection, known, names::in), known);
            T result = steps.apply(tx);
            tx.finish();
            return result;
        } catch (Statements.UncheckedSql e) {
            throw SqlErrors.wrap(description, e.sql());
        }
    }

    @Override
    public void guarded(LeaseKey lease, Duration most, GuardedWork work, Supplier<RunEnd> end) throws Exception {
        holdBefore(lease);
        Connection connection;
        Manners.Before before;
        try {
            connection = dataSource.getConnection();
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        }
        try (connection) {
            Manners manners = kind().manners;
            try {
                before = manners.guarded(most).begin(connection);
            } catch (SQLException e) {
                throw SqlErrors.wrap(description, e);
            }
            try {
                workAndEnd(connection, lease, work, end);
            } catch (Statements.UncheckedSql e) {
                throw rolledBack(before, SqlErrors.wrap(description, e.sql()));
            } catch (Exception e) {
                throw rolledBack(before, e);
            } catch (Error e) {
                throw rolledBack(before, e);
            }
            commit(connection, before);
        }
    }

    @Override
    public void guarded(LeaseKey lease, Duration most, OwnTransaction own, GuardedWork work, Supplier<RunEnd> end)
            throws Exception {
        holdBefore(lease);
        AtomicBoolean written = new AtomicBoolean();
        try {
            own.carryOut(most, connection -> {
                if (connection.getAutoCommit()) {
                    throw new IllegalStateException(
                            "the connection of the application's own transaction is in none (its auto-commit is on)");
                }
                kind().manners.guarded(most).bound(connection);
                workAndEnd(connection, lease, work, end);
                written.set(true);
            });
        } catch (Statements.UncheckedSql e) {
            throw SqlErrors.wrap(description, e.sql());
        } catch (Exception e) {
            if (written.get()) {
                throw new StoreException(
                        StoreException.Trouble.COMMIT_UNCLEAR,
                        "the application's own transaction failed at its commit: " + e.getMessage(),
                        e);
            }
            throw e;
        }
        if (!written.get()) {
            throw new IllegalStateException(
                    "the application's own transaction has not carried out the work that it was given");
        }
    }

    /** Where one writes after the other, the work is not to keep the others from writing, so nothing of ours is locked before it is done. */
    private void holdBefore(LeaseKey lease) {
        if (dialect().writesInTurn()) {
            requireHeld(transact(tx -> tx.holdLease(lease)), lease);
        }
    }

    /** Within a transaction: the run's row is held under its lease, the work writes, the run ends. */
    private void workAndEnd(Connection connection, LeaseKey lease, GuardedWork work, Supplier<RunEnd> end)
            throws Exception {
        Dialect known = dialect();
        JdbcTransaction tx = transaction(new Statements(connection, known, names::in), known);
        if (!known.writesInTurn()) {
            requireHeld(tx.holdLease(lease), lease);
        }
        work.on(GuardedConnection.around(connection));
        if (known.writesInTurn()) {
            takeTurn(connection);
            requireHeld(tx.holdLease(lease), lease);
        }
        tx.end(List.of(end.get()));
        tx.finish();
    }

    private void takeTurn(Connection connection) {
        try {
            kind().manners.takeTurn(connection);
        } catch (SQLException e) {
            throw SqlErrors.wrap(description, e);
        }
    }

    private static void requireHeld(boolean held, LeaseKey lease) {
        if (!held) {
            throw new LeaseLostException("run " + lease.run() + " is no longer leased to this instance");
        }
    }

    private JdbcTransaction transaction(Statements sql, Dialect known) {
        return known.takesArrays()
                ? new PostgresTransaction(sql, versions, feeding, noting)
                : new JdbcTransaction(sql, known, versions, numbers(sql), feeding, noting, this::virtualNow);
    }

    private void commit(Connection connection, Manners.Before before) {
        try {
            connection.commit();
        } catch (SQLException e) {
            throw SqlErrors.wrapCommit(description, e);
        }
        try {
            before.restore();
        } catch (SQLException afterwards) {
            // It is committed; a broken connection shows at its next use.
            LOG.debug("after commit: {}", afterwards.getMessage());
        }
    }

    private static <E extends Throwable> E rolledBack(Manners.Before before, E thrown) {
        try {
            before.rollback();
        } catch (SQLException e) {
            thrown.addSuppressed(e);
        }
        return thrown;
    }

    @Override
    public Outlook outlook(Look look) {
        OutlookQuery query = new OutlookQuery(look, dialect(), virtualNow());
        return look(limit, query::run);
    }

    /** Sets up a store. Confined to one thread. */
    public static final class Builder {
        private final DataSource dataSource;
        private Optional<String> schema = Optional.empty();
        private String description = "the database";
        private boolean managed = true;
        private boolean creates = true;
        private boolean calls = true;
        private Optional<Duration> limit = Optional.empty();
        private Optional<InstantSource> virtual = Optional.empty();

        private Builder(DataSource dataSource) {
            this.dataSource = Objects.requireNonNull(dataSource, "dataSource");
        }

        /**
         * Takes settings as texts: those of the store; an instance takes its own.
         *
         * @throws IllegalArgumentException naming the key whose value is wrong, and why
         */
        public Builder configure(Configuration settings) {
            settings.read("schema", this::schema);
            settings.read("schema-changes", text -> {
                switch (text) {
                    case "create" -> {}
                    case "upgrade" -> withoutCreating();
                    case "none" -> withoutSchemaChanges();
                    default -> throw new IllegalArgumentException("'" + text + "' is none of create, upgrade, none");
                }
            });
            settings.read("calls", text -> {
                if (!Configuration.flag(text)) {
                    withoutCalls();
                }
            });
            settings.read("statement-limit", text -> limit(Configuration.duration(text)));
            return this;
        }

        /**
         * Puts the tables into a schema of that name, creating it if need be.
         *
         * @param name lower-case letters, digits and {@code _}
         */
        public Builder schema(String name) {
            if (!SCHEMA.matcher(name).matches()) {
                throw new IllegalArgumentException(
                        "schema '" + name + "' is not a name (expected lower-case letters, digits and '_')");
            }
            schema = Optional.of(name);
            return this;
        }

        /** Says how messages name the database; without secrets. */
        public Builder description(String text) {
            description = Objects.requireNonNull(text, "text");
            return this;
        }

        /** Leaves creating and upgrading the tables to an administrator. */
        public Builder withoutSchemaChanges() {
            managed = false;
            return this;
        }

        /** Brings tables up to date, but refuses a database that has none: for whoever means one that is there. */
        public Builder withoutCreating() {
            creates = false;
            return this;
        }

        /**
         * Neither calls other instances nor listens for their calls, which on PostgreSQL takes one connection for as long as
         * an instance runs; what is ordered at short notice then waits for the next poll.
         */
        public Builder withoutCalls() {
            calls = false;
            return this;
        }

        /**
         * Sets how long one statement or wait may last; it must be shorter than every instance's lease. Unless set it is {@link #LIMIT}, or two thirds
         * of the shortest lease of those that use the store if that is less.
         */
        public Builder limit(Duration most) {
            if (most.toMillis() < 100) {
                throw new IllegalArgumentException("limit: " + most.toMillis() + "ms is below 100ms");
            }
            limit = Optional.of(most);
            return this;
        }

        /**
         * Goes by a clock that is not the database's, to write a history in virtual time; on H2 only. Whoever shares the
         * database then must go by the same.
         */
        public Builder clock(InstantSource clock) {
            virtual = Optional.of(clock);
            return this;
        }

        /** Creates the store; it connects when it is first used. */
        public JdbcStore build() {
            return new JdbcStore(this);
        }
    }
}
