package dev.brume.cli;

import com.zaxxer.hikari.HikariDataSource;
import dev.brume.definitions.DefinitionFile;
import dev.brume.jdbc.EmbeddedDatabase;
import dev.brume.jdbc.JdbcStore;
import java.nio.file.Path;

/** The world of the demo with its past behind it, and no server at work in it. */
final class LivedWorld {
    private LivedWorld() {}

    /** {@return that world, made in a folder, its database closed again} */
    static DemoWorld in(Path folder) throws Exception {
        DemoWorld world = DemoWorld.create(folder, 0);
        try (EmbeddedDatabase database = EmbeddedDatabase.open(world.folder(), EmbeddedDatabase.Role.HOST);
                HikariDataSource pool = StoreOptions.pool(database.opened(), 4, JdbcStore.LIMIT)) {
            JdbcStore store = JdbcStore.on(pool);
            store.prepare();
            DemoHistory.write(
                    DefinitionFile.read(world.definitions()),
                    store.history().now(),
                    time -> JdbcStore.builder(pool)
                            .withoutSchemaChanges()
                            .clock(time)
                            .build());
        }
        return world;
    }
}
