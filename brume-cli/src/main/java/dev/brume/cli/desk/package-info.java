/** Where commands look and give orders: at a store, or at a server before one. */
@NullMarked
package dev.brume.cli.desk;

import org.jspecify.annotations.NullMarked;
