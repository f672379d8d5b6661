package dev.brume.memory;

import dev.brume.history.LeaseRow;
import dev.brume.spi.LeaseSteps;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/** The steps on leases by name, on a map. */
final class MemoryLeases implements LeaseSteps {
    private final Tables tables;

    MemoryLeases(Tables tables) {
        this.tables = tables;
    }

    @Override
    public Optional<LeaseRow> lock(String name) {
        return Optional.ofNullable(tables.leases.get(name));
    }

    @Override
    public boolean add(LeaseRow lease) {
        if (tables.leases.containsKey(lease.name())) {
            return false;
        }
        write(lease);
        return true;
    }

    @Override
    public void write(LeaseRow lease) {
        tables.put(tables.leases, lease.name(), lease);
    }

    @Override
    public int forget(Instant freeSince) {
        List<LeaseRow> old = tables.leases.values().stream()
                .filter(lease -> lease.freeAt().isBefore(freeSince))
                .toList();
        old.forEach(lease -> tables.remove(tables.leases, lease.name()));
        return old.size();
    }
}
