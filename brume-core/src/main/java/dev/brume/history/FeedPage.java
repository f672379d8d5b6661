package dev.brume.history;

import java.util.List;

/**
 * Events from the feed, in their order.
 *
 * @param reset whether there may have been events before these that are not to be had any more: whoever follows looks at everything anew
 * @param events what happened
 * @param next where to go on; as asked for if nothing came since, and further on also where all that came is of kinds that only a newer version
 *     knows
 * @since 0.1.0
 */
public record FeedPage(boolean reset, List<FeedEvent> events, FeedPosition next) {}
