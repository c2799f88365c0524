CREATE TABLE `record_totals` (
	`name` text PRIMARY KEY NOT NULL,
	`count` integer NOT NULL,
	`bytes` integer NOT NULL
);
--> statement-breakpoint
INSERT INTO `record_totals` SELECT 'runs', count(*), 0 FROM `runs`;
--> statement-breakpoint
INSERT INTO `record_totals` SELECT 'payloads', count(*), coalesce(sum(`bytes`), 0) FROM `payloads`;
--> statement-breakpoint
CREATE TRIGGER `runs_added` AFTER INSERT ON `runs` BEGIN UPDATE `record_totals` SET `count` = `count` + 1 WHERE `name` = 'runs'; END;
--> statement-breakpoint
CREATE TRIGGER `runs_gone` AFTER DELETE ON `runs` BEGIN UPDATE `record_totals` SET `count` = `count` - 1 WHERE `name` = 'runs'; END;
--> statement-breakpoint
CREATE TRIGGER `payloads_added` AFTER INSERT ON `payloads` BEGIN UPDATE `record_totals` SET `count` = `count` + 1, `bytes` = `bytes` + NEW.`bytes` WHERE `name` = 'payloads'; END;
--> statement-breakpoint
CREATE TRIGGER `payloads_gone` AFTER DELETE ON `payloads` BEGIN UPDATE `record_totals` SET `count` = `count` - 1, `bytes` = `bytes` - OLD.`bytes` WHERE `name` = 'payloads'; END;