/** Whether one instance is fit to live and to take work. */
@NullMarked
package dev.brume.insight.health;

import org.jspecify.annotations.NullMarked;
