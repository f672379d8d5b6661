package dev.brume.http.internal.resource;

import dev.brume.Brume;
import dev.brume.http.AllowedNames;
import dev.brume.http.internal.live.Hub;
import dev.brume.http.internal.web.Operation;
import dev.brume.http.internal.web.Routes;
import java.util.List;
import java.util.Map;

/** All that can be asked for. */
public final class Everything {
    private Everything() {}

    /**
     * {@return all operations}
     *
     * @param allowed what definitions may name, by namespace
     */
    public static Routes routes(Brume brume, Hub hub, Map<String, AllowedNames> allowed) {
        NameRules rules = new NameRules(allowed);
        List<List<Operation>> groups = List.of(
                JobResources.operations(),
                JobOrders.operations(),
                DefinitionResources.operations(rules),
                DraftResources.operations(rules),
                SharedResources.operations(),
                SourceResources.operations(),
                RunResources.operations(),
                ManyRuns.operations(),
                OneOffResources.operations(),
                PauseResources.operations(),
                ClusterResources.operations(),
                NamespaceResources.operations(),
                KeepingResources.operations(),
                NoticeResources.operations(),
                RecordResources.operations(),
                TokenResources.operations(),
                SelfResource.operations(),
                WorkbenchResources.operations(),
                List.of(Hub.operation()));
        return new Routes(groups.stream().flatMap(List::stream).toList());
    }
}
