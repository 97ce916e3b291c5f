/*M!999999\- enable the sandbox mode */ 
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `asset` (
  `sha256` char(64) NOT NULL,
  `kind` varchar(16) NOT NULL,
  `bytes` bigint(20) NOT NULL,
  `given_name` varchar(255) NOT NULL,
  `created` datetime(6) NOT NULL,
  PRIMARY KEY (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `asset` VALUES
('2e0ee750e1a9eed98c3aab4ef4cdb5f45048b38fe836433d6ffa47fc8b0d1f4b','profile',1199,'','2026-11-27 15:15:11.897400'),
('89f35c91e6ecd8c9c9e192479939afad5e097fc47d4133c5d5df93c749e64d6f','profile',798,'','2026-11-27 15:15:11.900148'),
('ff9b0458da022cc5dcc6d3b9ce59bdad170d6105919253a134396d1468c8a520','model',16828,'','2026-11-27 15:15:11.902103');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `cutout` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `cutoutrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `cutoutrow_project_id` (`project_id`),
  CONSTRAINT `cutout_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `edit` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `label` varchar(120) NOT NULL,
  `changes` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`changes`)),
  `undone` tinyint(1) NOT NULL,
  `created` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `editrow_project_id` (`project_id`),
  CONSTRAINT `edit_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `edit` VALUES
(1,1,'Hour','[{\"part\": \"occasion\", \"key\": \"noon\", \"before\": {\"key\": \"noon\", \"name\": \"Noon\", \"when\": \"2026-06-21T13:20:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {\"Ceiling\": 0.0}}, \"after\": {\"key\": \"noon\", \"name\": \"Noon\", \"when\": \"2026-06-21T13:20:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {\"Ceiling\": 0.0}}}]',0,'2026-11-27 15:15:11.922205'),
(3,1,'White card','[{\"part\": \"stage\", \"key\": \"\", \"before\": {\"white_card\": false, \"surfaces\": {}, \"objects\": {}, \"openings\": [], \"find_openings\": true, \"light_net\": {\"on\": false, \"low\": [-10.0, -10.0, -3.0], \"high\": [10.0, 10.0, 3.0], \"fineness_m\": 0.03, \"photons\": 400000}}, \"after\": {\"white_card\": true, \"surfaces\": {}, \"objects\": {}, \"openings\": [], \"find_openings\": true, \"light_net\": {\"on\": false, \"low\": [-10.0, -10.0, -3.0], \"high\": [10.0, 10.0, 3.0], \"fineness_m\": 0.03, \"photons\": 400000}}, \"paths\": [[\"white_card\"]]}]',1,'2026-11-27 15:15:11.924657');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `fixture` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `fixturerow_project_id_part_key` (`project_id`,`part_key`),
  KEY `fixturerow_project_id` (`project_id`),
  CONSTRAINT `fixture_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `fixture` VALUES
(1,1,'a',0,'','{\"key\": \"a\", \"kind\": \"downlight-medium\", \"group\": \"Ceiling\", \"position\": [1.5, 2.0, 2.9], \"aim\": [1.5, 2.0, 0.0], \"turn_deg\": 0.0, \"lumens\": null, \"percent\": 100.0, \"kelvin\": null, \"on\": true, \"beam\": 0.0, \"lights_only\": []}'),
(2,1,'b',1,'','{\"key\": \"b\", \"kind\": \"globe-pendant\", \"group\": \"Pendants\", \"position\": [4.5, 2.0, 2.2], \"aim\": [4.5, 2.0, 0.0], \"turn_deg\": 0.0, \"lumens\": null, \"percent\": 100.0, \"kelvin\": null, \"on\": true, \"beam\": 0.0, \"lights_only\": []}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `fixture_kind` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `kindrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `kindrow_project_id` (`project_id`),
  CONSTRAINT `fixture_kind_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `fixture_kind` VALUES
(1,1,'downlight-medium',0,'Downlight 36','{\"key\": \"downlight-medium\", \"name\": \"Downlight 36\", \"profile\": \"2e0ee750e1a9eed98c3aab4ef4cdb5f45048b38fe836433d6ffa47fc8b0d1f4b\", \"body\": \"downlight\", \"kelvin\": 3000.0, \"mounting\": \"ceiling\", \"lumens\": null, \"duv\": 0.0, \"rgb\": null, \"dimming\": \"steady\", \"depreciation\": 1.0, \"emits_from\": null, \"seen\": true}'),
(2,1,'globe-pendant',1,'Globe pendant','{\"key\": \"globe-pendant\", \"name\": \"Globe pendant\", \"profile\": \"89f35c91e6ecd8c9c9e192479939afad5e097fc47d4133c5d5df93c749e64d6f\", \"body\": \"pendant\", \"kelvin\": 2900.0, \"mounting\": \"ceiling\", \"lumens\": null, \"duv\": 0.0, \"rgb\": null, \"dimming\": \"steady\", \"depreciation\": 1.0, \"emits_from\": null, \"seen\": true}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `job` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `plate_id` int(11) NOT NULL,
  `status` varchar(16) NOT NULL,
  `samples_done` int(11) NOT NULL,
  `interruptions` int(11) NOT NULL,
  `stop_asked` tinyint(1) NOT NULL,
  `holder` varchar(64) NOT NULL,
  `held_until` datetime(6) DEFAULT NULL,
  `message` varchar(255) NOT NULL,
  `seconds_spent` double NOT NULL,
  `seconds_left` double DEFAULT NULL,
  `created` datetime(6) NOT NULL,
  `changed` datetime(6) NOT NULL,
  `rank` double DEFAULT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `jobrow_plate_id` (`plate_id`),
  CONSTRAINT `job_ibfk_1` FOREIGN KEY (`plate_id`) REFERENCES `plate` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `job` VALUES
(1,1,'done',6,0,0,'',NULL,'',0,NULL,'2026-11-27 15:15:11.916932','2026-11-27 15:15:11.916950',NULL),
(2,2,'done',6,0,0,'',NULL,'',0,NULL,'2026-11-27 15:15:11.919185','2026-11-27 15:15:11.919199',NULL),
(3,3,'running',3,0,0,'',NULL,'',0,NULL,'2026-11-27 15:15:11.921320','2026-11-27 15:15:11.921334',NULL);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `layer` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `layerrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `layerrow_project_id` (`project_id`),
  CONSTRAINT `layer_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `look` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `lookrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `lookrow_project_id` (`project_id`),
  CONSTRAINT `look_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `look` VALUES
(1,1,'plain',0,'Plain','{\"key\": \"plain\", \"name\": \"Plain\", \"treatments\": [{\"on\": false, \"kind\": \"bloom\", \"amount\": 0.05, \"radius_percent\": 3.0}, {\"on\": true, \"kind\": \"exposure\", \"stops\": 0.0}, {\"on\": true, \"kind\": \"white_balance\", \"kelvin\": 6500.0, \"tint\": 0.0}, {\"on\": true, \"kind\": \"tone_curve\", \"shoulder\": 0.6, \"toe\": 0.2, \"stops_above\": 3.0}, {\"on\": true, \"kind\": \"contrast\", \"amount\": 0.0}, {\"on\": true, \"kind\": \"saturation\", \"amount\": 0.0}]}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `occasion` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `occasionrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `occasionrow_project_id` (`project_id`),
  CONSTRAINT `occasion_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `occasion` VALUES
(1,1,'noon',0,'Noon','{\"key\": \"noon\", \"name\": \"Noon\", \"when\": \"2026-06-21T13:20:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {\"Ceiling\": 0.0}}'),
(2,1,'night',1,'Night','{\"key\": \"night\", \"name\": \"Night\", \"when\": \"2026-01-12T22:00:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {}}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `own` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `kind` varchar(16) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  `created` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `ownrow_kind_name` (`kind`,`name`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `placement` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `placementrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `placementrow_project_id` (`project_id`),
  CONSTRAINT `placement_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `placement` VALUES
(1,1,'room',0,'room.glb','{\"key\": \"room\", \"name\": \"room.glb\", \"asset\": \"ff9b0458da022cc5dcc6d3b9ce59bdad170d6105919253a134396d1468c8a520\"}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `plate` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `view_key` varchar(64) NOT NULL,
  `occasion_key` varchar(64) NOT NULL,
  `quality` varchar(16) NOT NULL,
  `width` int(11) NOT NULL,
  `height` int(11) NOT NULL,
  `samples` int(11) NOT NULL,
  `seed` int(11) NOT NULL,
  `settings` char(64) DEFAULT NULL,
  `ev100` double NOT NULL,
  `true_to_place` tinyint(1) NOT NULL,
  `picture` char(64) DEFAULT NULL,
  `film` char(64) DEFAULT NULL,
  `seconds` double NOT NULL,
  `name` varchar(80) NOT NULL,
  `rank` double DEFAULT NULL,
  `put_away` tinyint(1) NOT NULL,
  `created` datetime(6) NOT NULL,
  `note` varchar(500) NOT NULL,
  `starred` tinyint(1) NOT NULL,
  PRIMARY KEY (`id`),
  KEY `platerow_project_id` (`project_id`),
  KEY `platerow_settings` (`settings`),
  KEY `platerow_project_id_view_key_occasion_key` (`project_id`,`view_key`,`occasion_key`),
  CONSTRAINT `plate_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE,
  CONSTRAINT `plate_ibfk_2` FOREIGN KEY (`settings`) REFERENCES `plate_settings` (`sha256`)
) ENGINE=InnoDB AUTO_INCREMENT=4 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `plate` VALUES
(1,1,'inside','noon','sketch',640,360,6,1,'e5ab5e57d0ad4d41503c891487867b2cbc42731cce47d4417b6310c0c1430409',10.5,1,'0000000000000000000000000000000000000000000000000000000000000000','0000000000000000000000000000000000000000000000000000000000000000',3,'',NULL,0,'2026-11-27 15:15:11.915468','',0),
(2,1,'outside','noon','sketch',640,360,6,1,'e5ab5e57d0ad4d41503c891487867b2cbc42731cce47d4417b6310c0c1430409',10.5,1,'0000000000000000000000000000000000000000000000000000000000000001','0000000000000000000000000000000000000000000000000000000000000001',3,'',NULL,0,'2026-11-27 15:15:11.917954','',0),
(3,1,'inside','night','sketch',640,360,6,1,'e5ab5e57d0ad4d41503c891487867b2cbc42731cce47d4417b6310c0c1430409',10.5,1,NULL,NULL,3,'',NULL,0,'2026-11-27 15:15:11.920154','',0);
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `plate_settings` (
  `sha256` char(64) NOT NULL,
  `description` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`description`)),
  PRIMARY KEY (`sha256`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `plate_settings` VALUES
('e5ab5e57d0ad4d41503c891487867b2cbc42731cce47d4417b6310c0c1430409','{\"name\": \"Small room\", \"site\": {\"place\": \"Nowhere\", \"latitude_deg\": 46.6, \"longitude_deg\": 9.8, \"elevation_m\": 0.0, \"time_zone\": \"Europe/Zurich\", \"north_deg\": 0.0}, \"stage\": {\"models\": [{\"name\": \"room.glb\", \"asset\": \"ff9b0458da022cc5dcc6d3b9ce59bdad170d6105919253a134396d1468c8a520\"}], \"white_card\": false, \"surfaces\": {}, \"objects\": {}, \"openings\": [], \"find_openings\": true, \"light_net\": {\"on\": false, \"low\": [-10.0, -10.0, -3.0], \"high\": [10.0, 10.0, 3.0], \"fineness_m\": 0.03, \"photons\": 400000}}, \"views\": [{\"key\": \"inside\", \"name\": \"Inside\", \"position\": [5.5, 3.6, 1.5], \"target\": [2.5, 0.6, 1.2], \"focal_mm\": 20.0, \"film_width_mm\": 36.0, \"format\": [16, 9], \"keep_verticals\": true, \"focus_m\": null, \"blades\": 0, \"blade_turn_deg\": 0.0, \"shift_x\": 0.0, \"shift_y\": 0.0, \"tilt_deg\": 0.0, \"swing_deg\": 0.0, \"moves_to\": null, \"lens\": {\"f_number\": 5.6, \"shutter_s\": 0.03333333333333333, \"iso\": 200.0}, \"lens_at\": {}, \"look_at\": {}}, {\"key\": \"outside\", \"name\": \"Outside\", \"position\": [9.0, -8.0, 1.6], \"target\": [3.0, 0.0, 1.4], \"focal_mm\": 24.0, \"film_width_mm\": 36.0, \"format\": [16, 9], \"keep_verticals\": true, \"focus_m\": null, \"blades\": 0, \"blade_turn_deg\": 0.0, \"shift_x\": 0.0, \"shift_y\": 0.0, \"tilt_deg\": 0.0, \"swing_deg\": 0.0, \"moves_to\": null, \"lens\": {\"f_number\": 11.0, \"shutter_s\": 0.008, \"iso\": 100.0}, \"lens_at\": {}, \"look_at\": {}}], \"occasions\": [{\"key\": \"noon\", \"name\": \"Noon\", \"when\": \"2026-06-21T13:20:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {\"Ceiling\": 0.0}}, {\"key\": \"night\", \"name\": \"Night\", \"when\": \"2026-01-12T22:00:00\", \"sun\": {\"true_to_place\": true, \"azimuth_deg\": 180.0, \"altitude_deg\": 35.0, \"size\": 1.0, \"level_stops\": 0.0, \"kelvin\": null, \"disc\": true}, \"sky\": {\"model\": \"atmosphere\", \"turbidity\": 2.5, \"level_stops\": 0.0, \"cie_type\": 12, \"clouds\": {\"name\": \"\", \"layers\": [], \"seed\": 1, \"turn_deg\": 0.0, \"east_m\": 0.0, \"north_m\": 0.0}, \"measured\": {\"direct_normal_lx\": 60000.0, \"diffuse_horizontal_lx\": 18000.0}, \"picture\": null, \"horizon\": {\"height_deg\": 0.0, \"blend_deg\": 0.6, \"ground\": [0.14, 0.15, 0.1], \"eye_m\": 6.0}, \"haze\": true, \"moon\": true, \"stars\": true, \"glow\": {\"luminance\": 0.0, \"azimuth_deg\": 180.0}}, \"air\": {\"on\": false, \"extent\": \"everywhere\", \"low\": [-50.0, -50.0, 0.0], \"high\": [50.0, 50.0, 20.0], \"free_path_m\": 200.0, \"base_height_m\": 0.0, \"fall_m\": null, \"colour\": [0.98, 0.98, 0.98], \"forward\": 0.6, \"back\": 0.2, \"back_share\": 0.1, \"multiple\": true, \"unevenness\": 0.0, \"uneven_size_m\": 2.0, \"drift\": [0.0, 0.0, 0.0]}, \"season\": \"summer\", \"hidden_layers\": [], \"levels\": {}}], \"kinds\": [{\"key\": \"downlight-medium\", \"name\": \"Downlight 36\", \"profile\": \"2e0ee750e1a9eed98c3aab4ef4cdb5f45048b38fe836433d6ffa47fc8b0d1f4b\", \"body\": \"downlight\", \"kelvin\": 3000.0, \"mounting\": \"ceiling\", \"lumens\": null, \"duv\": 0.0, \"rgb\": null, \"dimming\": \"steady\", \"depreciation\": 1.0, \"emits_from\": null, \"seen\": true}, {\"key\": \"globe-pendant\", \"name\": \"Globe pendant\", \"profile\": \"89f35c91e6ecd8c9c9e192479939afad5e097fc47d4133c5d5df93c749e64d6f\", \"body\": \"pendant\", \"kelvin\": 2900.0, \"mounting\": \"ceiling\", \"lumens\": null, \"duv\": 0.0, \"rgb\": null, \"dimming\": \"steady\", \"depreciation\": 1.0, \"emits_from\": null, \"seen\": true}], \"fixtures\": [{\"key\": \"a\", \"kind\": \"downlight-medium\", \"group\": \"Ceiling\", \"position\": [1.5, 2.0, 2.9], \"aim\": [1.5, 2.0, 0.0], \"turn_deg\": 0.0, \"lumens\": null, \"percent\": 100.0, \"kelvin\": null, \"on\": true, \"beam\": 0.0, \"lights_only\": []}, {\"key\": \"b\", \"kind\": \"globe-pendant\", \"group\": \"Pendants\", \"position\": [4.5, 2.0, 2.2], \"aim\": [4.5, 2.0, 0.0], \"turn_deg\": 0.0, \"lumens\": null, \"percent\": 100.0, \"kelvin\": null, \"on\": true, \"beam\": 0.0, \"lights_only\": []}], \"looks\": [{\"key\": \"plain\", \"name\": \"Plain\", \"treatments\": [{\"on\": false, \"kind\": \"bloom\", \"amount\": 0.05, \"radius_percent\": 3.0}, {\"on\": true, \"kind\": \"exposure\", \"stops\": 0.0}, {\"on\": true, \"kind\": \"white_balance\", \"kelvin\": 6500.0, \"tint\": 0.0}, {\"on\": true, \"kind\": \"tone_curve\", \"shoulder\": 0.6, \"toe\": 0.2, \"stops_above\": 3.0}, {\"on\": true, \"kind\": \"contrast\", \"amount\": 0.0}, {\"on\": true, \"kind\": \"saturation\", \"amount\": 0.0}]}], \"scenes\": []}');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `profile` (
  `sha256` char(64) NOT NULL,
  `name` varchar(120) NOT NULL,
  `file_name` varchar(255) NOT NULL,
  `maker` varchar(80) NOT NULL,
  `source_format` varchar(24) NOT NULL,
  `lumens` double NOT NULL,
  `watts` double NOT NULL,
  `peak_cd` double NOT NULL,
  `beam_across` double NOT NULL,
  `beam_along` double NOT NULL,
  `shape` varchar(32) NOT NULL,
  `mounting` varchar(16) NOT NULL,
  `kelvin` double DEFAULT NULL,
  `words` varchar(1000) NOT NULL,
  `warnings` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`warnings`)),
  `pictured` tinyint(1) NOT NULL,
  `wall_ev` double DEFAULT NULL,
  `created` datetime(6) NOT NULL,
  PRIMARY KEY (`sha256`),
  KEY `profilerow_name` (`name`),
  KEY `profilerow_shape` (`shape`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `project` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `slug` varchar(80) NOT NULL,
  `name` varchar(80) NOT NULL,
  `site` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`site`)),
  `stage` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`stage`)),
  `revision` int(11) NOT NULL,
  `place` int(11) NOT NULL,
  `away` datetime(6) DEFAULT NULL,
  `created` datetime(6) NOT NULL,
  `changed` datetime(6) NOT NULL,
  PRIMARY KEY (`id`),
  UNIQUE KEY `projectrow_slug` (`slug`)
) ENGINE=InnoDB AUTO_INCREMENT=2 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `project` VALUES
(1,'small-room','Small room','{\"place\": \"Nowhere\", \"latitude_deg\": 46.6, \"longitude_deg\": 9.8, \"elevation_m\": 0.0, \"time_zone\": \"Europe/Zurich\", \"north_deg\": 0.0}','{\"white_card\": false, \"surfaces\": {}, \"objects\": {}, \"openings\": [], \"find_openings\": true, \"light_net\": {\"on\": false, \"low\": [-10.0, -10.0, -3.0], \"high\": [10.0, 10.0, 3.0], \"fineness_m\": 0.03, \"photons\": 400000}}',0,1,NULL,'2026-11-27 15:15:11.904397','2026-11-27 15:15:11.904414');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `scene` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `scenerow_project_id_part_key` (`project_id`,`part_key`),
  KEY `scenerow_project_id` (`project_id`),
  CONSTRAINT `scene_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `schema_version` (
  `number` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  PRIMARY KEY (`number`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `schema_version` VALUES
(1,'first tables'),
(2,'scenes'),
(3,'catalogue of profiles'),
(4,'several hands, names and order'),
(5,'stops are written down'),
(6,'settings of plates by their hash'),
(7,'leases of jobs'),
(8,'things placed on the stage'),
(9,'catalogue of one\'s own'),
(10,'notes and stars of plates, order of the queue'),
(11,'cut-outs');
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `touch` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `revision` int(11) NOT NULL,
  `hand` varchar(64) NOT NULL,
  `label` varchar(120) NOT NULL,
  `paths` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`paths`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `touchrow_project_id_revision` (`project_id`,`revision`),
  KEY `touchrow_project_id` (`project_id`),
  CONSTRAINT `touch_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
/*!40101 SET @saved_cs_client     = @@character_set_client */;
/*!40101 SET character_set_client = utf8mb4 */;
CREATE TABLE `view` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `project_id` int(11) NOT NULL,
  `part_key` varchar(64) NOT NULL,
  `place` int(11) NOT NULL,
  `name` varchar(80) NOT NULL,
  `data` longtext CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL CHECK (json_valid(`data`)),
  PRIMARY KEY (`id`),
  UNIQUE KEY `viewrow_project_id_part_key` (`project_id`,`part_key`),
  KEY `viewrow_project_id` (`project_id`),
  CONSTRAINT `view_ibfk_1` FOREIGN KEY (`project_id`) REFERENCES `project` (`id`) ON DELETE CASCADE
) ENGINE=InnoDB AUTO_INCREMENT=3 DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci;
/*!40101 SET character_set_client = @saved_cs_client */;
INSERT INTO `view` VALUES
(1,1,'inside',0,'Inside','{\"key\": \"inside\", \"name\": \"Inside\", \"position\": [5.5, 3.6, 1.5], \"target\": [2.5, 0.6, 1.2], \"focal_mm\": 20.0, \"film_width_mm\": 36.0, \"format\": [16, 9], \"keep_verticals\": true, \"focus_m\": null, \"blades\": 0, \"blade_turn_deg\": 0.0, \"shift_x\": 0.0, \"shift_y\": 0.0, \"tilt_deg\": 0.0, \"swing_deg\": 0.0, \"moves_to\": null, \"lens\": {\"f_number\": 5.6, \"shutter_s\": 0.03333333333333333, \"iso\": 200.0}, \"lens_at\": {}, \"look_at\": {}}'),
(2,1,'outside',1,'Outside','{\"key\": \"outside\", \"name\": \"Outside\", \"position\": [9.0, -8.0, 1.6], \"target\": [3.0, 0.0, 1.4], \"focal_mm\": 24.0, \"film_width_mm\": 36.0, \"format\": [16, 9], \"keep_verticals\": true, \"focus_m\": null, \"blades\": 0, \"blade_turn_deg\": 0.0, \"shift_x\": 0.0, \"shift_y\": 0.0, \"tilt_deg\": 0.0, \"swing_deg\": 0.0, \"moves_to\": null, \"lens\": {\"f_number\": 11.0, \"shutter_s\": 0.008, \"iso\": 100.0}, \"lens_at\": {}, \"look_at\": {}}');
