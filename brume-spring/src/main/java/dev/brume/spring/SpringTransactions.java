package dev.brume.spring;

import dev.brume.GuardedWork;
import dev.brume.OwnTransaction;
import dev.brume.spi.CallerTransactions;
import java.sql.Connection;
import java.time.Duration;
import java.util.Optional;
import java.util.function.Supplier;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.datasource.ConnectionHolder;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.TransactionStatus;
import org.springframework.transaction.support.DefaultTransactionDefinition;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/** Spring's transactions on the data source that Brume is in. Safe for use by many threads. */
final class SpringTransactions implements CallerTransactions, OwnTransaction {
    private final DataSource dataSource;
    private final Supplier<PlatformTransactionManager> manager;
    private final boolean joins;

    /**
     * Creates them.
     *
     * @param dataSource that Brume is in
     * @param manager of guarded transactions; asked for when the first begins
     * @param joins whether orders join the transaction that goes on
     */
    SpringTransactions(DataSource dataSource, Supplier<PlatformTransactionManager> manager, boolean joins) {
        this.dataSource = dataSource;
        this.manager = manager;
        this.joins = joins;
    }

    private @Nullable ConnectionHolder holder() {
        return TransactionSynchronizationManager.getResource(dataSource) instanceof ConnectionHolder holder
                ? holder
                : null;
    }

    @Override
    public Optional<Connection> current() {
        if (!joins || !TransactionSynchronizationManager.isActualTransactionActive()) {
            return Optional.empty();
        }
        ConnectionHolder holder = holder();
        if (holder == null) {
            String name = TransactionSynchronizationManager.getCurrentTransactionName();
            throw new SetupException(
                    "a transaction goes on here" + (name == null ? "" : " (" + name + ")")
                            + " that is not one of the data source that Brume is in, so that an order could not be part of it",
                    "let a transaction manager of that data source begin it, give the order a connection by within(...),"
                            + " or let all orders commit by themselves: brume.join-transactions=false");
        }
        return Optional.of(holder.getConnection());
    }

    /** Where the transaction manager lets nobody know, instances find what was ordered by themselves. */
    @Override
    public void afterCommit(Runnable action) {
        if (!TransactionSynchronizationManager.isSynchronizationActive()) {
            return;
        }
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                action.run();
            }
        });
    }

    @Override
    public void carryOut(Duration limit, GuardedWork work) throws Exception {
        DefaultTransactionDefinition definition =
                new DefaultTransactionDefinition(TransactionDefinition.PROPAGATION_REQUIRES_NEW);
        definition.setName("brume-run");
        definition.setTimeout((int) Math.max(1, limit.toSeconds()));
        PlatformTransactionManager those = manager.get();
        TransactionStatus status = those.getTransaction(definition);
        try {
            ConnectionHolder holder = holder();
            if (holder == null) {
                throw new SetupException(
                        "the transaction manager " + those.getClass().getName()
                                + " does not work on the data source that Brume is in, so that a run could not be part of its transaction",
                        "name another by brume.transaction-manager, or put Brume where that one works by brume.data-source");
            }
            work.on(holder.getConnection());
        } catch (Exception | Error e) {
            try {
                those.rollback(status);
            } catch (RuntimeException again) {
                e.addSuppressed(again);
            }
            throw e;
        }
        those.commit(status);
    }
}
