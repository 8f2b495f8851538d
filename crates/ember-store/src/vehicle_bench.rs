//! What is kept of a vehicle for measuring it again: its connectors, its circuits, its hoses.

use rusqlite::params;
use serde::Serialize;
use utoipa::ToSchema;

use crate::error::StoreError;
use crate::store::Store;

#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct KeptForVehicle {
    /// `connector`, `circuit`, `hoses`.
    pub kind: String,
    pub name: String,
    pub body: serde_json::Value,
}

impl Store {
    /// Everything that is kept of a vehicle, by kind and name.
    ///
    /// # Errors
    /// There is no such vehicle; the database fails.
    pub fn kept_for_vehicle(&self, vehicle_id: i64) -> Result<Vec<KeptForVehicle>, StoreError> {
        self.vehicle(vehicle_id)?;
        let connection = self.lock();
        let mut statement = connection
            .prepare_cached("SELECT kind, name, body FROM vehicle_bench WHERE vehicle_id = ?1 ORDER BY kind, name")?;
        let mut rows = statement.query([vehicle_id])?;
        let mut list = Vec::new();
        while let Some(row) = rows.next()? {
            let body = serde_json::from_str(&row.get::<_, String>(2)?)?;
            list.push(KeptForVehicle { kind: row.get(0)?, name: row.get(1)?, body });
        }
        Ok(list)
    }

    /// Keeps something of a vehicle, in the place of what had its name.
    ///
    /// # Errors
    /// There is no such vehicle; the database fails.
    pub fn keep_for_vehicle(
        &self,
        vehicle_id: i64,
        kind: &str,
        name: &str,
        body: &serde_json::Value,
    ) -> Result<(), StoreError> {
        self.vehicle(vehicle_id)?;
        self.lock().execute(
            "INSERT INTO vehicle_bench (vehicle_id, kind, name, body) VALUES (?1, ?2, ?3, ?4)
             ON CONFLICT (vehicle_id, kind, name) DO UPDATE SET body = excluded.body",
            params![vehicle_id, kind, name, body.to_string()],
        )?;
        Ok(())
    }
}
