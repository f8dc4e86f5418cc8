CREATE TABLE `intake_desks` (
	`id` text PRIMARY KEY NOT NULL,
	`secret` text NOT NULL,
	`conduct` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `intake_items` (
	`id` text PRIMARY KEY NOT NULL,
	`desk_id` text NOT NULL,
	`key` text NOT NULL,
	`manifest` text NOT NULL,
	`state` text NOT NULL,
	`reasons` text NOT NULL,
	`received_at_ms` integer NOT NULL,
	`answered_at_ms` integer,
	FOREIGN KEY (`desk_id`) REFERENCES `intake_desks`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `intake_items_key` ON `intake_items` (`desk_id`,`key`);--> statement-breakpoint
CREATE TABLE `receivers` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`kind` text NOT NULL,
	`address` text NOT NULL,
	`secret` text NOT NULL,
	`is_built_in` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	`removed_at_ms` integer
);
--> statement-breakpoint
CREATE TABLE `sending_log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`sending_id` text NOT NULL,
	`at_ms` integer NOT NULL,
	`text` text NOT NULL,
	FOREIGN KEY (`sending_id`) REFERENCES `sendings`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `sending_log_sending` ON `sending_log` (`sending_id`);--> statement-breakpoint
CREATE TABLE `sendings` (
	`id` text PRIMARY KEY NOT NULL,
	`delivery_id` text NOT NULL,
	`receiver_id` text NOT NULL,
	`round` integer NOT NULL,
	`key` text NOT NULL,
	`fetch_token` text NOT NULL,
	`state` text NOT NULL,
	`reasons` text NOT NULL,
	`failed_tries` integer NOT NULL,
	`created_at_ms` integer NOT NULL,
	`received_at_ms` integer,
	`ended_at_ms` integer,
	FOREIGN KEY (`delivery_id`) REFERENCES `deliveries`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`receiver_id`) REFERENCES `receivers`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sendings_round` ON `sendings` (`delivery_id`,`receiver_id`,`round`);--> statement-breakpoint
CREATE UNIQUE INDEX `sendings_key` ON `sendings` (`key`);--> statement-breakpoint
ALTER TABLE `delivery_lines` ADD `receiver_id` text REFERENCES receivers(id);--> statement-breakpoint
ALTER TABLE `tasks` ADD `not_before_ms` integer;