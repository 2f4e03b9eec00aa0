-- The spatial index @r of a table @t, and the triggers that keep it (annex F.3).

CREATE VIRTUAL TABLE @r USING rtree(id, minx, maxx, miny, maxy);

CREATE TRIGGER @r_insert AFTER INSERT ON @t WHEN (NEW.geom NOTNULL AND NOT ST_IsEmpty(NEW.geom)) BEGIN
  INSERT OR REPLACE INTO @r VALUES (NEW.fid, ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;

CREATE TRIGGER @r_update1 AFTER UPDATE OF geom ON @t
WHEN OLD.fid = NEW.fid AND (NEW.geom NOTNULL AND NOT ST_IsEmpty(NEW.geom)) BEGIN
  INSERT OR REPLACE INTO @r VALUES (NEW.fid, ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;

CREATE TRIGGER @r_update2 AFTER UPDATE OF geom ON @t
WHEN OLD.fid = NEW.fid AND (NEW.geom ISNULL OR ST_IsEmpty(NEW.geom)) BEGIN
  DELETE FROM @r WHERE id = OLD.fid;
END;

CREATE TRIGGER @r_update3 AFTER UPDATE ON @t
WHEN OLD.fid != NEW.fid AND (NEW.geom NOTNULL AND NOT ST_IsEmpty(NEW.geom)) BEGIN
  DELETE FROM @r WHERE id = OLD.fid;
  INSERT OR REPLACE INTO @r VALUES (NEW.fid, ST_MinX(NEW.geom), ST_MaxX(NEW.geom), ST_MinY(NEW.geom), ST_MaxY(NEW.geom));
END;

CREATE TRIGGER @r_update4 AFTER UPDATE ON @t
WHEN OLD.fid != NEW.fid AND (NEW.geom ISNULL OR ST_IsEmpty(NEW.geom)) BEGIN
  DELETE FROM @r WHERE id IN (OLD.fid, NEW.fid);
END;

CREATE TRIGGER @r_delete AFTER DELETE ON @t WHEN OLD.geom NOT NULL BEGIN
  DELETE FROM @r WHERE id = OLD.fid;
END;
