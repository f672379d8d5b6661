package dev.brume.memory;

import dev.brume.history.NamedLeaseRow;
import dev.brume.spi.NamedLeaseSteps;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/** The steps on leases by name, on a map. */
final class MemoryNamedLeases implements NamedLeaseSteps {
    private final Tables tables;

    MemoryNamedLeases(Tables tables) {
        this.tables = tables;
    }

    @Override
    public Optional<NamedLeaseRow> lock(String name) {
        return Optional.ofNullable(tables.leases.get(name));
    }

    @Override
    public boolean add(NamedLeaseRow lease) {
        if (tables.leases.containsKey(lease.name())) {
            return false;
        }
        write(lease);
        return true;
    }

    @Override
    public void write(NamedLeaseRow lease) {
        tables.put(tables.leases, lease.name(), lease);
    }

    @Override
    public int forget(Instant freeSince) {
        List<NamedLeaseRow> old = tables.leases.values().stream()
                .filter(lease -> lease.freeAt().isBefore(freeSince))
                .toList();
        old.forEach(lease -> tables.remove(tables.leases, lease.name()));
        return old.size();
    }
}
