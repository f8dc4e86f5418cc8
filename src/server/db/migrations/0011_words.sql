ALTER TABLE `delivery_lines` RENAME TO `delivery_rows`;--> statement-breakpoint
ALTER TABLE `delivery_rows` RENAME COLUMN `way` TO `level_mode`;--> statement-breakpoint
ALTER TABLE `delivery_rows` RENAME COLUMN `keep` TO `trim`;--> statement-breakpoint
DROP INDEX `delivery_lines_job`;--> statement-breakpoint
CREATE INDEX `delivery_rows_job` ON `delivery_rows` (`job_id`);--> statement-breakpoint
ALTER TABLE `delivery_sets` RENAME COLUMN `lines` TO `rows`;--> statement-breakpoint
ALTER TABLE `deliveries` RENAME COLUMN `line_id` TO `row_id`;--> statement-breakpoint
ALTER TABLE `sendings` RENAME TO `transfers`;--> statement-breakpoint
DROP INDEX `sendings_round`;--> statement-breakpoint
DROP INDEX `sendings_key`;--> statement-breakpoint
CREATE UNIQUE INDEX `transfers_round` ON `transfers` (`delivery_id`,`receiver_id`,`round`);--> statement-breakpoint
CREATE UNIQUE INDEX `transfers_key` ON `transfers` (`key`);--> statement-breakpoint
ALTER TABLE `sending_log` RENAME TO `transfer_log`;--> statement-breakpoint
ALTER TABLE `transfer_log` RENAME COLUMN `sending_id` TO `transfer_id`;--> statement-breakpoint
DROP INDEX `sending_log_sending`;--> statement-breakpoint
CREATE INDEX `transfer_log_transfer` ON `transfer_log` (`transfer_id`);--> statement-breakpoint
ALTER TABLE `intake_desks` RENAME TO `simulated_intakes`;--> statement-breakpoint
ALTER TABLE `intake_items` RENAME COLUMN `desk_id` TO `intake_id`;
