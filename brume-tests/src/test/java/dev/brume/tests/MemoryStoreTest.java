package dev.brume.tests;

import dev.brume.memory.MemoryStore;
import dev.brume.spi.Store;
import dev.brume.testkit.StoreContract;

class MemoryStoreTest extends StoreContract {
    @Override
    protected Store open() {
        return new MemoryStore();
    }
}
